<script lang="ts">
  import { onMount } from "svelte";
  import type { SheetScene } from "../../../sheet/scene";
  import { apart } from "../../../sheet/apart";
  import { stage } from "../../../sheet/stage";
  import { theme } from "../../../ui/theme.svelte";
  import { depthText } from "../document";
  import type { Planning } from "../state.svelte";

  let { model, ready }: { model: Planning; ready: () => void } = $props();
  let canvas: HTMLCanvasElement;
  let frame: HTMLDivElement;
  let scene = $state.raw<SheetScene | null>(null);
  let width = $state(1);

  onMount(() => {
    const made = stage(canvas, frame, {
      mirrored: () => model.mirrored,
      press: (place) => void model.press(place),
      resized: (now) => (width = now),
    });
    scene = made.scene;
    model.attach(made.scene);
    ready();
    return () => {
      model.leave();
      made.leave();
    };
  });
  $effect(() => scene?.setGround(theme.ground, theme.dim));

  const LABEL_PX = [44, 32] as const;
  const pins = $derived.by(() => {
    void model.drawn;
    const seen = (model.plan?.sites ?? []).flatMap((site, index) => {
      const at = model.screen(site.at);
      if (!at || !at.facing) return [];
      return [{ index, site, x: model.mirrored ? width - at.x : at.x, y: at.y, towards: at.towards }];
    });
    return apart(seen, ...LABEL_PX, (pin) => pin.index === model.chosen);
  });
</script>

<div
  bind:this={frame}
  class="absolute inset-0 touch-none overflow-hidden {model.pressing ? 'cursor-crosshair' : ''}"
>
  <canvas
    bind:this={canvas}
    data-drawn={model.dressed ? "yes" : "no"}
    class="h-full w-full {model.mirrored ? '-scale-x-100' : ''}"
    aria-label="The tooth before cutting, the planned preparation inside it"
  ></canvas>
  {#each pins as pin (pin.index)}
    <button
      type="button"
      class="absolute -translate-x-1/2 -translate-y-1/2 rounded border px-1.5 text-base font-bold shadow-sm
        {pin.index === model.chosen
        ? 'border-pine bg-pine text-pine-ink'
        : 'border-rule bg-card/90 text-ink'}"
      style="left: {pin.x}px; top: {pin.y}px"
      aria-label="{pin.site.where}: {depthText(pin.site)} mm"
      onclick={() => model.choose(pin.index)}>{depthText(pin.site)}</button
    >
  {/each}
</div>
