<script lang="ts">
  import type { Finding, Row } from "../findings";
  import type { Examine } from "../state.svelte";
  import Gauge from "./Gauge.svelte";

  let { model }: { model: Examine } = $props();

  const limitsOf = (v: Finding) => {
    const twins = model.document!.verdicts.filter((w) => w.criterion === v.criterion && w.zone === v.zone);
    const limit = (bound: string) => twins.find((w) => w.bound === bound)?.limit ?? null;
    return { min: limit("min"), max: limit("max"), target: v.target };
  };
  const tone = (status: string) =>
    status === "short" ? "text-short" : status === "over" ? "text-over" : "text-unsure";
  /** The other criteria of a place, small: each with its own amount. */
  const others = (row: Row) =>
    row.findings
      .slice(1)
      .map((f) => (f.amount === "?" ? `${f.title}: ${f.says}` : `${f.title} ${f.amount}, ${f.says}`))
      .join(" · ");
  $effect(() => {
    if (model.chosen >= 0)
      document.getElementById(`finding-${model.chosen}`)?.scrollIntoView({ block: "nearest" });
  });
</script>

<ol class="flex flex-col" aria-label="Findings, a row a place">
  {#each model.rows as row, index (row.where)}
    {@const first = row.findings[0]!}
    {@const open = index === model.chosen}
    <li id="finding-{index}" class="border-b border-rule {open ? 'bg-paper' : ''}">
      {#if row.concern !== model.rows[index - 1]?.concern}
        <h2 class="border-b border-rule bg-paper px-4 pt-3 pb-1 text-sm font-semibold text-soft">
          {row.concern}
        </h2>
      {/if}
      <button
        type="button"
        class="flex w-full items-baseline gap-3 px-4 py-2.5 text-left"
        aria-expanded={open}
        onclick={() => model.choose(index)}
      >
        <span class="min-w-0 flex-1">
          <span class="block text-lg leading-tight font-semibold first-letter:uppercase">{row.where}</span>
          <span class="block text-sm text-soft">
            {first.title === row.where ? first.says : `${first.title}, ${first.says}`}
          </span>
          {#if row.findings.length > 1}<span class="block text-sm text-soft">{others(row)}</span>{/if}
        </span>
        <span class="text-2xl font-bold whitespace-nowrap tabular-nums {tone(first.status)}"
          >{first.amount}</span
        >
      </button>
      {#if open}
        {#each row.findings as v, k (v.criterion + v.zone + v.bound)}
          <div class="flex flex-col gap-2 px-4 pb-4">
            {#if row.findings.length > 1}
              <p class="text-sm font-semibold first-letter:uppercase">
                {v.title},
                <span class={tone(v.status)}>{v.amount === "?" ? v.says : `${v.amount} ${v.says}`}</span>
              </p>
            {/if}
            {#if row.findings.findIndex((f) => f.advice === v.advice) === k}
              <p class="text-lg leading-snug">{v.advice}</p>
            {/if}
            {#if v.value !== null && v.unit === "mm" && v.limit !== null}
              <Gauge value={v.value} U={v.U ?? 0} {...limitsOf(v)} />
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
        {/each}
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
