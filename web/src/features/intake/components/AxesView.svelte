<script lang="ts">
  import { onMount } from "svelte";
  import { api, type AxesGuess } from "../../../api/client";
  import { parseMesh } from "../../../sheet/blob";
  import type { SheetScene } from "../../../sheet/scene";
  import { stage } from "../../../sheet/stage";
  import { add, vec } from "../../../sheet/vectors";
  import { viewOf } from "../../../sheet/views";
  import { theme } from "../../../ui/theme.svelte";

  let { hash, guess, lingual }: { hash: string; guess: AxesGuess; lingual: string } = $props();
  let canvas: HTMLCanvasElement;
  let frame: HTMLDivElement;
  let scene = $state.raw<SheetScene | null>(null);
  let drawn = $state(0);

  onMount(() => {
    const made = stage(canvas, frame);
    made.scene.onDraw = () => (drawn += 1);
    scene = made.scene;
    return made.leave;
  });
  $effect(() => scene?.setGround(theme.ground, theme.dim));
  $effect(() => {
    const target = scene;
    if (target) void api.blob(hash).then((data) => target.setPrep("light", parseMesh(data)));
  });
  $effect(() => {
    const axes = { occlusal: vec(guess.occlusal), facial: vec(guess.facial), mesial: vec(guess.mesial) };
    scene?.look(viewOf("occlusal", axes), vec(guess.centre), 30);
  });

  const labels = $derived.by(() => {
    void drawn;
    if (!scene) return [];
    const middle = vec(guess.centre);
    const sides = [
      ["facial", guess.facial, 9],
      [lingual, guess.facial, -9],
      ["mesial", guess.mesial, 12],
      ["distal", guess.mesial, -12],
    ] as const;
    return sides.map(([name, axis, reach]) => ({ name, ...scene!.project(add(middle, vec(axis), reach)) }));
  });
</script>

<div
  bind:this={frame}
  class="relative h-[24rem] touch-none overflow-hidden rounded-lg border border-rule select-none"
  role="img"
  aria-label="The preparation scan from above, with the guessed directions"
>
  <canvas bind:this={canvas} class="h-full w-full"></canvas>
  {#each labels as label (label.name)}
    <span
      class="pointer-events-none absolute -translate-x-1/2 -translate-y-1/2 rounded bg-pine px-2 py-0.5 font-semibold text-pine-ink"
      style="left: {label.x}px; top: {label.y}px">{label.name}</span
    >
  {/each}
</div>
