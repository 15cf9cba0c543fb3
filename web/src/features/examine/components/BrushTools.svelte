<script lang="ts">
  import { onMount } from "svelte";
  import { api } from "../../../api/client";
  import Button from "../../../ui/Button.svelte";
  import Choice from "../../../ui/Choice.svelte";
  import { fromTo, stateWord } from "../changes";
  import type { Examine } from "../state.svelte";

  /** over: laid over the sheet, where a panel already stands beside it. */
  let { model, over = false }: { model: Examine; over?: boolean } = $props();
  const brush = $derived(model.brush);
  const DEPTHS = [0.2, 0.3, 0.5, 0.8, 1.0];
  let tray = $state<number[]>([]);
  onMount(() => {
    api.tray().then(
      (found) => (tray = found.burs.map((bur) => bur.diameter_mm)),
      () => {}, // without the tray the size at hand can still be used
    );
  });
  const sizes = $derived([...new Set([...tray, brush.diameter_mm])].sort((a, b) => a - b));
  const rows = $derived(
    brush.predicted?.rows.filter((r) => r.state !== "changed" && r.state !== "still") ?? [],
  );
</script>

{#if brush.on}
  <section
    class="flex flex-col gap-2 overflow-y-auto border-rule bg-card p-3 {over
      ? 'absolute top-16 right-3 z-20 max-h-[72%] w-80 rounded-md border shadow'
      : 'border-l'}"
    aria-label="Simulate strokes"
  >
    <p class="text-base font-semibold">
      Simulate a stroke <span class="font-normal text-soft">nothing is cut or kept</span>
    </p>
    <div class="flex gap-2">
      <div class="flex-1">
        <Choice
          label="Depth, mm"
          value={String(brush.depth_mm)}
          items={DEPTHS.map((d) => ({ value: String(d), label: d.toFixed(1) }))}
          onchange={(v) => (brush.depth_mm = Number(v))}
        />
      </div>
      <div class="flex-1">
        <Choice
          label="Bur, mm"
          value={String(brush.diameter_mm)}
          items={sizes.map((d) => ({ value: String(d), label: d.toFixed(1) }))}
          onchange={(v) => (brush.diameter_mm = Number(v))}
        />
      </div>
    </div>
    <p class="text-sm text-soft">Press along the tooth where the bur would run.</p>
    <div class="flex flex-wrap gap-2">
      <Button tone="main" disabled={brush.strokes.length === 0 || brush.busy} onclick={() => brush.ask()}
        >{brush.busy ? "Judging …" : "What would follow?"}</Button
      >
      <Button disabled={brush.strokes.length === 0} onclick={() => brush.back()}>Back</Button>
      <Button onclick={() => brush.drop()}>Close</Button>
    </div>
    {#if brush.error}<p class="text-short" role="alert">{brush.error}</p>{/if}
    {#if brush.predicted}
      <div aria-live="polite">
        <p class="font-semibold">{brush.predicted.removed_mm3.toFixed(1)} mm³ of tooth would go.</p>
        {#each brush.predicted.warnings as warning (warning)}<p class="text-short">{warning}</p>{/each}
        <ul aria-label="What would follow">
          {#each rows as row (row.criterion + row.zone + row.bound)}
            <li class="flex items-baseline gap-2 border-t border-rule py-1">
              <span class="min-w-0 flex-1"
                ><b class="first-letter:uppercase">{row.where === "overall" ? row.title : row.where}</b>
                <span class="block text-sm text-soft">{row.title}: {stateWord(row.state)}</span></span
              >
              <span class="whitespace-nowrap">{fromTo(row)}</span>
            </li>
          {:else}
            <li class="text-soft">No verdict would change.</li>
          {/each}
        </ul>
      </div>
    {/if}
  </section>
{/if}
