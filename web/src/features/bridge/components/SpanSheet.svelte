<script lang="ts">
  import { onMount } from "svelte";
  import { apart } from "../../../sheet/apart";
  import type { SheetScene } from "../../../sheet/scene";
  import { stage } from "../../../sheet/stage";
  import { VIEW_KEYS } from "../../../sheet/views";
  import Button from "../../../ui/Button.svelte";
  import { plainKey } from "../../../ui/keys";
  import { theme } from "../../../ui/theme.svelte";
  import { SPAN_VIEWS, type Shown } from "../shown.svelte";

  /** All abutments on one sheet, with what is written on them. */
  let { model, said }: { model: Shown; said: string } = $props();
  let canvas: HTMLCanvasElement;
  let frame: HTMLDivElement;
  let scene = $state.raw<SheetScene | null>(null);

  onMount(() => {
    const made = stage(canvas, frame);
    scene = made.scene;
    void model.attach(made.scene);
    return () => {
      model.detach();
      made.leave();
    };
  });
  $effect(() => scene?.setGround(theme.ground, theme.dim));

  const LABEL_PX = [84, 26] as const;
  const shown = $derived.by(() => {
    void model.drawn;
    const seen = model.labels.flatMap((label, index) => {
      const at = scene?.project(label.at);
      return at ? [{ ...label, index, x: at.x, y: at.y, towards: at.towards }] : [];
    });
    return apart(seen, ...LABEL_PX, () => false);
  });

  function key(event: KeyboardEvent) {
    const view = VIEW_KEYS[plainKey(event) ?? ""];
    if (!view || !SPAN_VIEWS.includes(view)) return;
    model.look(view);
    event.preventDefault();
  }
</script>

<svelte:window onkeydown={key} />

<div bind:this={frame} class="absolute inset-0 touch-none overflow-hidden">
  <canvas bind:this={canvas} data-drawn={model.dressed ? "yes" : "no"} class="h-full w-full" aria-label={said}
  ></canvas>
  {#each shown as label (label.index)}
    <p
      class="pointer-events-none absolute -translate-x-1/2 -translate-y-1/2 rounded border bg-card/90 px-1.5 text-sm font-semibold whitespace-nowrap
        {label.bad ? 'border-short text-short' : 'border-rule'}"
      style="left: {label.x}px; top: {label.y}px"
    >
      {label.text}
    </p>
  {/each}
</div>
<div class="absolute right-3 bottom-3 flex gap-2" role="group" aria-label="Views of the span">
  {#each SPAN_VIEWS as name (name)}
    <Button size="slim" pressed={model.view === name} onclick={() => model.look(name)}>From {name}</Button>
  {/each}
</div>
