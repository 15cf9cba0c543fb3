<script lang="ts">
  import type { Examine } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  const answer = $derived(model.report?.answer ?? null);
  const TONES: Record<string, string> = {
    "not-yet": "border-l-short",
    "cut-no-more": "border-l-over",
    stop: "border-l-pine",
  };
</script>

{#if answer}
  <div
    class="border-b border-l-8 border-b-rule py-3 pr-4 pl-3 {TONES[answer.state] ?? 'border-l-unsure'}"
    role="status"
    data-walk="answer"
    data-part="The answer: whether you may stop, and how many places are short, over, doubtful or not measured"
  >
    <p class="text-[1.65rem] leading-[1.15] font-bold">{answer.text}</p>
    {#if answer.counts}<p class="pt-1 text-sm text-soft">{answer.counts}</p>{/if}
    {#if model.report?.stop}
      <p class="pt-1 text-base leading-snug">{model.report.stop.replace(answer.text, "").trim()}</p>
    {/if}
  </div>
{/if}
