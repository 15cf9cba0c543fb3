<script lang="ts">
  import type { Examine } from "../state.svelte";

  /** Stretches of the finish line to scan again while the patient is still there; a press turns the tooth there. */
  let { model }: { model: Examine } = $props();
  const rows = $derived(model.document?.rescan ?? []);
  let chosen = $state(-1);
  const row = $derived(rows[chosen] ?? null);

  function show(index: number) {
    chosen = chosen === index ? -1 : index;
    const place = rows[index];
    if (place && chosen === index) model.showRescan(place);
    else model.showRescan(null);
  }
</script>

{#if rows.length}
  <section class="border-b border-l-4 border-rule border-l-unsure px-4 py-2" aria-label="Scan again">
    <h2 class="text-base font-semibold">Scan again now, rather than at the next visit</h2>
    <div class="flex flex-wrap gap-2 py-1">
      {#each rows as place, k (k)}
        <button
          type="button"
          aria-pressed={chosen === k}
          class="min-h-11 rounded-md border px-3 text-base {chosen === k
            ? 'border-pine bg-pine text-pine-ink'
            : 'border-rule bg-card'}"
          onclick={() => show(k)}>{place.where}, {place.length_mm.toFixed(1)} mm</button
        >
      {/each}
    </div>
    {#if row}
      <p class="text-sm">{row.words[0]?.toUpperCase()}{row.words.slice(1)}: {row.do}.</p>
    {/if}
  </section>
{/if}
