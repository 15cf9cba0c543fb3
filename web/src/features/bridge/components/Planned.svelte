<script lang="ts">
  import Button from "../../../ui/Button.svelte";
  import Notice from "../../../ui/Notice.svelte";
  import Progress from "../../../ui/Progress.svelte";
  import { router } from "../../../router.svelte";
  import { vec } from "../../../sheet/vectors";
  import type { PlannedSpan } from "../planned.svelte";

  /** What one path would cost each abutment, beside the others; what each target along it cannot meet. */
  let { model, caseId, readings }: { model: PlannedSpan; caseId: string; readings: Record<string, string> } =
    $props();
  const plain = (value: number | null, digits = 1) => (value === null ? "–" : value.toFixed(digits));
  const LEAN_DEG = 2;
  const LEANS = {
    mesial: { mesial: LEAN_DEG, facial: 0 },
    distal: { mesial: -LEAN_DEG, facial: 0 },
    facial: { mesial: 0, facial: LEAN_DEG },
    lingual: { mesial: 0, facial: -LEAN_DEG },
  };
  const named = (name: string) => (name === "least tooth" ? "least tooth, and least of it deep" : name);
</script>

{#if model.error}<div class="p-3"><Notice tone="error">{model.error}</Notice></div>{/if}
{#if model.busy && model.job}
  <Progress share={model.job.share} text={model.job.text} cancel={() => model.cancel()} />
{:else if model.asked && (!model.plan || model.stale)}
  <div class="flex flex-col gap-3 p-4">
    {#if model.plan}<Notice>Something has changed since this was planned.</Notice>{:else}
      <p>
        One path for all abutments before the first cut: the one along which the least tooth goes. Each
        tooth's own plan says which tooth it is, how high its line lies and how its walls lean.
      </p>
    {/if}
    <Button tone="main" onclick={() => model.make()}
      >{model.plan ? "Plan together again" : "Plan together"}</Button
    >
  </div>
{/if}
{#if model.plan}
  {@const plan = model.plan}
  <p
    role="status"
    class="border-b border-l-8 border-rule px-4 py-3 text-xl font-semibold {plan.abutments.every(
      (a) => a.plan.meets,
    )
      ? 'border-l-pine'
      : 'border-l-short'}"
  >
    {plan.abutments.every((a) => a.plan.meets)
      ? "One path serves: every abutment can meet its standard"
      : "Not every abutment can meet its standard"}
  </p>
  {#each plan.abutments as abutment (abutment.tooth)}
    <section class="border-b border-rule px-4 py-3" aria-label="Abutment {abutment.tooth}">
      <div class="flex items-baseline justify-between gap-3">
        <h2 class="text-lg font-semibold">{abutment.tooth}</h2>
        <span class="font-semibold {abutment.plan.meets ? 'text-pine' : 'text-short'}"
          >{abutment.plan.meets ? "meets" : abutment.plan.why_no_target ? "not known" : "does not meet"}</span
        >
      </div>
      {#if abutment.plan.cut_mm3 !== null}
        <p class="tabular-nums">
          <b>{abutment.plan.cut_mm3.toFixed(0)} mm³</b> cut · <b>{plain(abutment.plan.left_mm)} mm</b> left at
          its narrowest · walls <b>{plain(abutment.plan.wall_height_mm)} mm</b>
        </p>
      {/if}
      <p class="text-sm">The path leans {abutment.own_to_path_deg.toFixed(0)}° from what is best for it.</p>
      {#each abutment.plan.unmet as one (one.criterion)}
        <p class="text-sm text-short">{one.words[0]?.toUpperCase()}{one.words.slice(1)}.</p>
      {/each}
      {#if abutment.plan.why_no_target}<p class="text-sm">{abutment.plan.why_no_target}.</p>{/if}
      {#if readings[abutment.tooth]}
        <div class="pt-2">
          <Button
            size="slim"
            onclick={() => router.go(`/case/${caseId}/plan?attempt=${readings[abutment.tooth]}`)}
            >Plan of {abutment.tooth}</Button
          >
        </div>
      {/if}
    </section>
  {/each}
  <section class="border-b border-rule px-4 py-3">
    <h2 class="font-semibold">What each path takes</h2>
    <table class="w-full text-sm tabular-nums" aria-label="Paths side by side">
      <thead>
        <tr class="text-soft">
          <th class="text-left font-normal">mm³, deepest mm</th>
          {#each plan.abutments as abutment (abutment.tooth)}
            <th class="pl-3 text-right font-normal">{abutment.tooth}</th>
          {/each}
        </tr>
      </thead>
      <tbody>
        {#each plan.ways as way, k (way.name)}
          {@const weight = k === 0 ? "font-semibold" : "font-normal"}
          <tr class="border-t border-rule align-baseline">
            <th class="py-1 text-left {weight}"
              >{named(way.name)}{k ? `, ${way.lean_deg.toFixed(0)}° off` : ""}{#if way.blocked_mm > 0.1}<span
                  class="block text-short">another tooth in the way, {way.blocked_mm.toFixed(1)} mm</span
                >{/if}{#if k && !model.busy}<span class="block pt-1"
                  ><Button
                    size="slim"
                    onclick={() => model.along(way.name === "least tooth" ? null : vec(way.direction))}
                    >Plan along this</Button
                  ></span
                >{/if}</th
            >
            {#each way.teeth as tooth (tooth.tooth)}
              <td class="pl-3 text-right whitespace-nowrap {weight}"
                >{tooth.cut_mm3.toFixed(0)}, {tooth.deepest_mm.toFixed(1)}</td
              >
            {/each}
          </tr>
        {/each}
      </tbody>
    </table>
    {#if !model.busy}
      <div class="flex flex-wrap items-center gap-2 pt-3" role="group" aria-label="Lean the path by hand">
        <span class="w-full text-sm"
          >{model.byHand ? "This path is your own." : "This path takes the least tooth."} Lean it {LEAN_DEG}°
          and plan again:</span
        >
        {#each Object.entries(LEANS) as [way, tilt] (way)}
          <Button size="slim" onclick={() => model.lean(tilt)}>{way}</Button>
        {/each}
      </div>
    {/if}
  </section>
  {#each [...plan.warnings, ...plan.verdicts
      .filter((v) => v.status === "over" || v.status === "short")
      .map((v) => `The abutments' own paths lie ${plain(v.value, 0)} degrees apart: ${v.why}.`)] as words (words)}
    <p class="border-b border-rule px-4 py-2 text-sm">{words}</p>
  {/each}
  {#if model.targetHash}
    <p class="px-4 py-3">
      <a
        class="inline-flex min-h-11 items-center rounded-md border border-rule bg-card px-4 text-ink no-underline"
        href="/api/readings/{model.readingId}/bridge/plan/target.stl"
        download>All targets as one STL</a
      >
    </p>
  {/if}
  <p class="px-4 pb-3 text-sm text-soft">{plan.reminder}</p>
{/if}
