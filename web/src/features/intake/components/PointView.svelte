<script lang="ts">
  import { onMount } from "svelte";
  import { api } from "../../../api/client";
  import { parseMesh } from "../../../sheet/blob";
  import type { SheetScene } from "../../../sheet/scene";
  import { stage } from "../../../sheet/stage";
  import type { Vec } from "../../../sheet/vectors";
  import { theme } from "../../../ui/theme.svelte";
  import { wholeView } from "../../../sheet/whole";

  interface Props {
    title: string;
    hash: string;
    places: Vec[];
    /** Whether the next place is wanted here. */
    next: boolean;
    press: (place: Vec) => void;
  }
  let { title, hash, places, next, press }: Props = $props();
  let canvas: HTMLCanvasElement;
  let frame: HTMLDivElement;
  let scene = $state.raw<SheetScene | null>(null);
  let drawn = $state(0);
  let error = $state("");

  onMount(() => {
    const made = stage(canvas, frame, { press: (place) => place && press(place) });
    made.scene.onDraw = () => (drawn += 1);
    scene = made.scene;
    return made.leave;
  });
  $effect(() => scene?.setGround(theme.ground, theme.dim));
  $effect(() => {
    const target = scene;
    if (!target) return;
    api.blob(hash).then(
      (data) => {
        const mesh = parseMesh(data);
        const { view, middle, span } = wholeView(mesh);
        target.setPrep("rest", mesh);
        target.look(view, middle, span);
      },
      (e: unknown) => (error = e instanceof Error ? e.message : String(e)),
    );
  });
  $effect(() => scene?.setPlaces(places));

  const labels = $derived.by(() => {
    void drawn;
    return scene ? places.map((p, k) => ({ k: k + 1, ...scene!.project(p) })) : [];
  });
</script>

<div
  bind:this={frame}
  class="relative h-[24rem] touch-none overflow-hidden rounded-lg border-2 select-none {next
    ? 'border-pine'
    : 'border-rule'}"
  role="img"
  aria-label="The {title}, {places.length} places"
>
  <canvas bind:this={canvas} class="h-full w-full"></canvas>
  <span class="pointer-events-none absolute top-2 left-2 rounded bg-paper/85 px-2 py-0.5 font-semibold"
    >{title}{#if next}: press place {places.length + 1}{/if}</span
  >
  {#if error}<p class="absolute bottom-2 left-2 text-short" role="alert">{error}</p>{/if}
  {#each labels as label (label.k)}
    <span
      class="pointer-events-none absolute -translate-x-1/2 -translate-y-[130%] rounded bg-pine px-2 font-semibold text-pine-ink"
      style="left: {label.x}px; top: {label.y}px">{label.k}</span
    >
  {/each}
</div>
