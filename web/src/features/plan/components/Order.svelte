<script lang="ts">
  import type { Planning } from "../state.svelte";

  let { model }: { model: Planning } = $props();
  const plan = $derived(model.plan);
</script>

{#if plan}
  <p class="border-b border-rule px-4 py-3 font-semibold">{plan.reminder}</p>
  {#if plan.capture.length}
    <section class="border-b border-rule px-4 py-3">
      <h2 class="text-lg font-semibold">Can a scanner see the finish line?</h2>
      <ul class="flex flex-col gap-1">
        {#each plan.capture as row (row.where + row.why)}
          <li><b>{row.where}</b>: {row.why}; {row.do}.</li>
        {/each}
      </ul>
    </section>
  {/if}
  <section class="px-4 py-3">
    <h2 class="text-lg font-semibold">{plan.sequence.title}</h2>
    <p class="pb-2 text-sm text-soft">{plan.sequence.reason}</p>
    <ol class="flex list-decimal flex-col gap-2 pl-6">
      {#each plan.sequence.steps as step (step.title)}
        <li>
          <b>{step.title}</b>
          {#if step.depth}<span class="block">{step.depth}</span>{/if}
          {#if step.bur}<span class="block">{step.bur}</span>{/if}
          <span class="block text-sm text-soft"
            >{step.view && step.view !== "all" ? `View: ${step.view}. ` : ""}{step.check
              ? `Check: ${step.check}. `
              : ""}{step.caution ? `Beware: ${step.caution}.` : ""}</span
          >
        </li>
      {/each}
    </ol>
  </section>
{/if}
