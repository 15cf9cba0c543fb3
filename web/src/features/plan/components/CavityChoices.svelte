<script lang="ts">
  import Button from "../../../ui/Button.svelte";
  import { LEAST_DRAWN, type Planning } from "../state.svelte";

  let { model }: { model: Planning } = $props();
  const SIDES = ["mesial", "distal"] as const;
  const cusps = $derived(model.plan?.cavity?.cusps ?? []);
  const covered = $derived(model.cavity.covered ?? cusps.filter((c) => c.covered).map((c) => c.cusp));
  const lingual = $derived(model.site?.lingual_word ?? "lingual");

  const flipped = <T,>(list: readonly T[], one: T) =>
    list.includes(one) ? list.filter((other) => other !== one) : [...list, one];
  const cover = (name: string) => model.changeCavity({ covered: flipped(covered, name) });
</script>

<fieldset class="flex flex-col gap-2">
  <legend class="pb-1 text-sm text-soft">Boxes, where decay or the old filling reaches the contact</legend>
  <div class="flex gap-2">
    {#each SIDES as side (side)}
      <Button
        pressed={model.cavity.boxes.includes(side)}
        onclick={() => model.changeCavity({ boxes: flipped(model.cavity.boxes, side) })}
        ><span class="capitalize">{side}</span></Button
      >
    {/each}
  </div>
</fieldset>
{#if model.site?.restoration === "onlay"}
  <fieldset class="flex flex-col gap-2">
    <legend class="pb-1 text-sm text-soft">Covered cusps</legend>
    {#if cusps.length}
      <div class="flex flex-wrap gap-2">
        {#each cusps as cusp (cusp.cusp)}
          <Button size="slim" pressed={covered.includes(cusp.cusp)} onclick={() => cover(cusp.cusp)}
            >{cusp.cusp.replace("lingual", lingual)}</Button
          >
        {/each}
      </div>
    {:else}
      <p>The functional ones, until the first plan has found the cusps.</p>
    {/if}
  </fieldset>
{/if}
<fieldset class="flex flex-col gap-2">
  <legend class="pb-1 text-sm text-soft">Outline of the occlusal part</legend>
  {#if model.pressing === "outline"}
    <p class="font-semibold" role="status">
      Press points round the cavity on the sheet, one after the other: {model.stroke.length}.
    </p>
    <div class="flex flex-wrap gap-2">
      <Button tone="main" disabled={model.stroke.length < LEAST_DRAWN} onclick={() => model.useOutline()}
        >Close and use</Button
      >
      <Button disabled={!model.stroke.length} onclick={() => model.undoPoint()}>Take back a point</Button>
      <Button onclick={() => model.leaveDrawing()}>Leave</Button>
    </div>
  {:else}
    <div class="flex flex-wrap gap-2">
      <Button pressed={!model.cavity.outline} onclick={() => model.changeCavity({ outline: null })}
        >Along the groove</Button
      >
      <Button
        pressed={Boolean(model.cavity.outline)}
        disabled={!model.plan}
        onclick={() => model.draw("outline")}>{model.cavity.outline ? "Drawn; draw anew" : "Draw it"}</Button
      >
    </div>
  {/if}
</fieldset>
