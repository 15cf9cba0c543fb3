<script lang="ts">
  import { onMount } from "svelte";
  import type { SheetScene } from "../../../sheet/scene";
  import { stage } from "../../../sheet/stage";
  import { theme } from "../../../ui/theme.svelte";
  import Button from "../../../ui/Button.svelte";
  import Choice from "../../../ui/Choice.svelte";
  import Slider from "../../../ui/Slider.svelte";
  import type { Examine } from "../state.svelte";

  /** The second sheet: beside the first one, or over it behind an edge that is wiped across. */
  let { model }: { model: Examine } = $props();
  const beside = $derived(model.beside);
  let canvas: HTMLCanvasElement;
  let frame: HTMLDivElement;
  let scene = $state.raw<SheetScene | null>(null);

  onMount(() => {
    const made = stage(canvas, frame); // no pointer reaches it: the first sheet leads
    scene = made.scene;
    void model.beside.attach(made.scene);
    return () => {
      model.beside.leave();
      made.leave();
    };
  });
  $effect(() => scene?.setGround(theme.ground, theme.dim));
  const wiping = $derived(beside.way === "wipe");
  const edge = $derived(wiping ? `${(beside.share * 100).toFixed(1)}%` : "0%");
</script>

<div
  bind:this={frame}
  class="pointer-events-none overflow-hidden {wiping
    ? 'absolute inset-0'
    : 'relative border-l-2 border-pine'}"
  style:clip-path={wiping ? `inset(0 0 0 ${edge})` : ""}
  role="img"
  aria-label="{beside.title}, {model.lens} lens, turned with the first sheet"
>
  <canvas bind:this={canvas} class="h-full w-full" style:transform={model.mirrored ? "scaleX(-1)" : ""}
  ></canvas>
</div>
{#if wiping}
  <i class="pointer-events-none absolute inset-y-0 w-0.5 bg-pine" style="left: {edge}" aria-hidden="true"></i>
{/if}
<div
  class="absolute top-3 right-3 left-3 z-20 flex flex-wrap items-center gap-2 rounded-md border border-rule bg-card/95 p-1.5"
  role="group"
  aria-label="Two sheets"
>
  <b class="px-2">Attempt {model.number}</b>
  <span class="text-soft">and</span>
  <Choice
    compact
    label="The other sheet"
    value={beside.which}
    items={beside.others}
    onchange={(id) => void beside.show(id)}
  />
  <Button pressed={!wiping} onclick={() => (beside.way = "split")}>Side by side</Button>
  <Button pressed={wiping} onclick={() => (beside.way = "wipe")}>Wipe</Button>
  {#if wiping}
    <div class="min-w-32 flex-1">
      <Slider
        label="How much of the sheet attempt {model.number} keeps"
        value={beside.share}
        min={0}
        max={1}
        step={0.01}
        onchange={(share) => (beside.share = share)}
      />
    </div>
  {/if}
  <Button class="ml-auto" onclick={() => void beside.toggle()}>Close</Button>
  {#if beside.error}<p class="w-full px-2 text-short" role="alert">{beside.error}</p>{/if}
</div>
