<script lang="ts">
  import type { DecisionRow } from "../../../api/client";
  import Button from "../../../ui/Button.svelte";
  import Notice from "../../../ui/Notice.svelte";
  import type { Planning } from "../state.svelte";

  /** Which material can this tooth take: every standard's own plan, the least tooth cut first. */
  let { model }: { model: Planning } = $props();
  const table = $derived(model.decision);
  const most = $derived(Math.max(...(table?.rows.map((row) => row.cut_mm3 ?? 0) ?? []), 1));
  const plain = (value: number | null, digits = 1) => (value === null ? "–" : value.toFixed(digits));
  const way = (row: DecisionRow) => {
    if (row.way === "as-it-is" || !row.raise_text) return "bite as it is";
    const [mm, place] = row.raise_text.split("@");
    return `bite raised by ${Number(mm).toFixed(1)} mm at the ${place === "molar" ? "first molars" : "incisors"}`;
  };
  const chosen = (row: DecisionRow) => row.standard.id === model.site?.standard_id && row.way === "as-it-is";
</script>

<div class="flex flex-col gap-3 px-4 py-3">
  {#if !table}
    <p>
      One plan for each material that this tooth can be made in, by its usual standard, side by side: the
      tooth it costs, what is left, and what it cannot meet. It takes a minute or two.
    </p>
  {:else if model.decisionStale}
    <Notice>Something has changed since the materials were compared.</Notice>
  {/if}
  {#if (!table || model.decisionStale) && !model.busy}
    <Button tone="main" onclick={() => model.decide()}>
      {table ? "Compare again" : "Compare the materials"}
    </Button>
  {/if}
</div>
{#if table}
  <ul aria-label="Materials">
    {#each table.rows as row (row.standard.id + row.way)}
      <li class="border-b border-rule px-4 py-3 {chosen(row) ? 'bg-pine/15' : ''}">
        <div class="flex items-baseline justify-between gap-3">
          <h3 class="text-base font-semibold">{row.standard.title}</h3>
          <span class="shrink-0 text-base font-semibold {row.meets ? 'text-pine' : 'text-short'}">
            {row.meets ? "meets" : row.why_no_target ? "not known" : "does not meet"}
          </span>
        </div>
        <p class="text-sm">{way(row)}</p>
        {#if row.cut_mm3 !== null}
          <div class="mt-1 h-2 rounded-sm bg-rule" aria-hidden="true">
            <div class="h-2 rounded-sm bg-ink" style:width="{(100 * row.cut_mm3) / most}%"></div>
          </div>
          <p class="mt-1 text-sm tabular-nums">
            <b>{row.cut_mm3.toFixed(0)} mm³</b> of tooth cut{row.cut_share === null
              ? ""
              : `, ${(100 * row.cut_share).toFixed(0)} % of the crown`} · <b>{plain(row.left_mm)} mm</b> left
            at its narrowest · walls <b>{plain(row.wall_height_mm)} mm</b>{row.resists === false
              ? ", not held by them alone"
              : ""}
          </p>
        {/if}
        {#each row.unmet as one (one.criterion)}
          <p class="text-sm text-short">{one.words[0]?.toUpperCase()}{one.words.slice(1)}.</p>
        {/each}
        {#if row.why_no_target}<p class="text-sm">{row.why_no_target}.</p>{/if}
        {#if row.caution}<p class="text-sm text-soft">{row.caution}</p>{/if}
        {#if !chosen(row) && row.way === "as-it-is"}
          <div class="pt-2">
            <Button size="slim" disabled={model.busy} onclick={() => model.useStandard(row.standard.id)}
              >Plan by this one</Button
            >
          </div>
        {/if}
      </li>
    {/each}
  </ul>
  <p class="px-4 py-3 text-sm text-soft">{table.reminder}</p>
{/if}
