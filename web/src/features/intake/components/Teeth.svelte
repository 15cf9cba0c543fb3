<script lang="ts">
  import { api, type Case, type Site } from "../../../api/client";
  import { router } from "../../../router.svelte";
  import Button from "../../../ui/Button.svelte";
  import Choice from "../../../ui/Choice.svelte";
  import { ROWS } from "../teeth";

  /** The teeth that share these scans: abutments of a bridge, crowns side by side. Another one is added here. */
  let {
    of,
    site,
    attempt,
    failed,
  }: { of: Case; site: Site; attempt: number; failed: (error: unknown) => void } = $props();
  const jaw = $derived(ROWS.find((row) => row.includes(site.tooth)) ?? []);
  const free = $derived(jaw.filter((number) => !of.sites.some((s) => s.tooth === number)));
  let chosen = $state("");
  let busy = $state(false);
  const scansOf = (one: Site) => {
    const reading = one.readings.find((r) => r.number === attempt) ?? one.readings.at(-1);
    return `/case/${of.id}/scans?attempt=${reading?.id ?? ""}`;
  };

  async function add() {
    busy = true;
    try {
      const { restoration, material, standard_id } = site;
      const made = await api.addTooth(of.id, {
        tooth: chosen,
        notation: "fdi",
        restoration,
        material,
        standard_id,
      });
      const added = made.sites.find((s) => s.tooth === chosen);
      if (added) router.go(scansOf(added));
    } catch (error) {
      failed(error);
    } finally {
      busy = false;
    }
  }
</script>

{#if jaw.length}
  <section class="flex flex-wrap items-end gap-3 border-t border-rule pt-4" aria-label="Teeth on these scans">
    <h2 class="w-full text-xl font-semibold">Teeth on these scans</h2>
    {#each of.sites as one (one.id)}
      <Button pressed={one.id === site.id} onclick={() => router.go(scansOf(one))}>Tooth {one.tooth}</Button>
    {/each}
    <Choice
      label="Another prepared tooth"
      value={chosen}
      items={free.map((number) => ({ value: number, label: `Tooth ${number}` }))}
      onchange={(number) => (chosen = number)}
    />
    <Button disabled={!chosen || busy} onclick={() => void add()}>Add it</Button>
    {#if of.missing.length}
      <Button onclick={() => router.go(`/case/${of.id}/bridge`)}>As one bridge</Button>
    {/if}
  </section>
{/if}
