<script lang="ts">
  import Button from "../../../ui/Button.svelte";
  import Choice from "../../../ui/Choice.svelte";
  import { words } from "../../vocabulary.svelte";
  import type { Library } from "../state.svelte";

  let { model }: { model: Library } = $props();
  const field = "min-h-10 rounded-md border border-rule bg-card px-2 text-base";
  const choices = (names: string[] | undefined) => (names ?? []).map((value) => ({ value, label: value }));
  function add() {
    const number = model.burs.length + 1;
    model.burs.push({
      id: `own-${Date.now()}`,
      title: `bur ${number}`,
      shape: "",
      diameter_mm: 1.6,
      tip_mm: 1.1,
      length_mm: 8,
      taper_deg: 2,
      tip: "round",
      grit: "medium",
    });
  }
</script>

<p class="pb-2 text-soft">
  A bur is a ruler: its size number is its largest diameter in tenths of a millimetre. Measure the tips of
  your own; plans say by them how deep to sink which bur.
</p>
<table class="w-full border-collapse text-base">
  <thead>
    <tr class="text-left text-sm text-soft"
      >{#each ["name", "shape (ISO 6360)", "largest, mm", "tip, mm", "length, mm", "taper, °", "tip", "grit", ""] as head (head)}<th
          class="pr-2 font-normal">{head}</th
        >{/each}</tr
    >
  </thead>
  <tbody>
    {#each model.burs as bur, k (bur.id)}
      <tr>
        <td class="pr-2"
          ><input class="{field} w-64" aria-label="Name of bur {k + 1}" bind:value={bur.title} /></td
        >
        <td class="pr-2"
          ><input class="{field} w-20" aria-label="Shape of {bur.title}" bind:value={bur.shape} /></td
        >
        {#each ["diameter_mm", "tip_mm", "length_mm", "taper_deg"] as const as which (which)}
          <td class="pr-2"
            ><input
              class="{field} w-20"
              type="number"
              step="0.1"
              aria-label="{which.replace('_', ' ')} of {bur.title}"
              bind:value={bur[which]}
            /></td
          >
        {/each}
        {#each [["tip", words.all?.bur_tips], ["grit", words.all?.bur_grits]] as const as [which, names] (which)}
          <td class="pr-2"
            ><Choice
              compact
              label="{which[0]!.toUpperCase() + which.slice(1)} of {bur.title}"
              value={bur[which]}
              items={choices(names)}
              onchange={(chosen) => Object.assign(bur, { [which]: chosen })}
            /></td
          >
        {/each}
        <td><Button size="slim" onclick={() => model.burs.splice(k, 1)}>Take out</Button></td>
      </tr>
    {/each}
  </tbody>
</table>
<div class="flex gap-3 pt-3">
  <Button onclick={add}>Add a bur</Button>
  <Button onclick={() => model.useGeneric()}>The generic set</Button>
  <Button tone="main" onclick={() => model.saveTray()}>Keep the tray</Button>
</div>
