<script lang="ts">
  import type { Examine } from "../state.svelte";
  import Gauge from "./Gauge.svelte";

  let { model }: { model: Examine } = $props();

  const limitsOf = (index: number) => {
    const v = model.findings[index]!;
    const twins = model.document!.verdicts.filter((w) => w.criterion === v.criterion && w.zone === v.zone);
    const limit = (bound: string) => twins.find((w) => w.bound === bound)?.limit ?? null;
    return { min: limit("min"), max: limit("max"), target: v.target };
  };
  const tone = (status: string) =>
    status === "short" ? "text-short" : status === "over" ? "text-over" : "text-unsure";
  $effect(() => {
    if (model.chosen >= 0)
      document.getElementById(`finding-${model.chosen}`)?.scrollIntoView({ block: "nearest" });
  });
</script>

{#if model.report?.stop}
  <p class="border-b-4 border-pine bg-paper px-4 py-4 text-xl leading-snug font-semibold" role="status">
    {model.report.stop}
  </p>
{/if}
<ol class="flex flex-col" aria-label="Findings, worst first">
  {#each model.findings as v, index (v.criterion + v.zone + v.bound)}
    {@const open = index === model.chosen}
    <li id="finding-{index}" class="border-b border-rule {open ? 'bg-paper' : ''}">
      <button
        type="button"
        class="flex w-full items-baseline gap-3 px-4 py-3 text-left"
        aria-expanded={open}
        onclick={() => model.choose(index)}
      >
        <span class="min-w-0 flex-1">
          <span class="block text-lg leading-tight font-semibold first-letter:uppercase"
            >{v.where === "overall" ? v.title : v.where}</span
          >
          <span class="block text-sm text-soft">{v.title}, {v.says}</span>
        </span>
        <span class="text-2xl font-bold whitespace-nowrap tabular-nums {tone(v.status)}">{v.amount}</span>
      </button>
      {#if open}
        <div class="flex flex-col gap-2 px-4 pb-4">
          <p class="text-lg leading-snug">{v.advice}</p>
          {#if v.value !== null && v.unit === "mm" && v.limit !== null}
            {@const limits = limitsOf(index)}
            <Gauge value={v.value} U={v.U ?? 0} {...limits} />
            <p class="text-sm text-soft">
              Measured {v.value.toFixed(2)} ± {(v.U ?? 0).toFixed(2)} mm at the worst spot.
            </p>
          {/if}
          <details class="text-sm text-soft">
            <summary class="min-h-8 cursor-pointer py-1">Why, and by which source</summary>
            <p class="pt-1">{v.why}.</p>
            {#if v.source}<p class="pt-1">Limit from: {v.source}.</p>{/if}
          </details>
        </div>
      {/if}
    </li>
  {:else}
    <li class="px-4 py-6 text-lg">Nothing is proven short or over-cut in what could be measured.</li>
  {/each}
</ol>
{#if model.report?.cautions.length}
  <details class="border-b border-rule px-4 py-3" open={false}>
    <summary class="min-h-8 cursor-pointer">Cautions, no faults: {model.report.cautions.length}</summary>
    <ul class="flex flex-col gap-1 pt-2 text-sm text-soft">
      {#each model.report.cautions as caution (caution.where + caution.text)}
        <li><span class="font-semibold first-letter:uppercase">{caution.where}</span>: {caution.text}.</li>
      {/each}
    </ul>
  </details>
{/if}
{#if model.unmeasured.length}
  <details class="border-b border-rule px-4 py-3">
    <summary class="min-h-8 cursor-pointer">Not measured: {model.unmeasured.length}</summary>
    <ul class="flex flex-col gap-1 pt-2 text-sm text-soft">
      {#each model.unmeasured as v (v.criterion + v.zone + v.bound)}
        <li>
          <span class="font-semibold first-letter:uppercase">{v.where}</span>, {v.title}: {v.why}
        </li>
      {/each}
    </ul>
  </details>
{/if}
