<script lang="ts">
  import { vec } from "../../../sheet/vectors";
  import Button from "../../../ui/Button.svelte";
  import { pathOf, tiltOf, type Tilt } from "../form";
  import type { Examine } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  const now = $derived(
    model.document && model.frame ? tiltOf(vec(model.document.path.direction), model.frame) : null,
  );
  let typed = $state<Tilt>({ mesial: 0, facial: 0 });
  $effect(() => {
    if (now) typed = { mesial: Math.round(now.mesial), facial: Math.round(now.facial) };
  });
  const given = $derived(model.document?.path.source === "given");
  const busy = $derived(model.judging || model.job?.state === "waiting" || model.job?.state === "running");
  const lean = (value: number, positive: string, negative: string) =>
    Math.abs(value) < 0.5 ? "" : `${Math.abs(value).toFixed(0)}° to ${value > 0 ? positive : negative}`;
</script>

{#if now && model.frame}
  {@const lingual = model.site?.lingual_word ?? "lingual"}
  <div class="flex flex-col gap-2">
    <p class="text-base">
      Path of insertion: <b>{given ? "yours" : "best"}</b>, leaning
      {[lean(now.mesial, "mesial", "distal"), lean(now.facial, "facial", lingual)]
        .filter(Boolean)
        .join(", ") || "nowhere"} from the tooth's axis.
    </p>
    <div class="flex flex-wrap items-end gap-3">
      {#each ["mesial", "facial"] as const as side (side)}
        <label class="flex flex-col text-sm text-soft"
          >to {side}, °
          <input
            type="number"
            min="-30"
            max="30"
            step="1"
            bind:value={typed[side]}
            class="min-h-11 w-20 rounded-md border border-rule bg-card px-2 text-lg text-ink"
          /></label
        >
      {/each}
      <Button
        size="slim"
        disabled={busy}
        onclick={() => model.frame && model.usePath(pathOf(typed, model.frame))}>Use it</Button
      >
      {#if given}
        <Button size="slim" disabled={busy} onclick={() => model.usePath(null)}>Best path</Button>
      {/if}
    </div>
  </div>
{/if}
