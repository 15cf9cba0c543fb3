<script lang="ts">
  import { onMount } from "svelte";
  import { api, sentenceOf, type ClassRelief } from "../../../api/client";
  import { parseMesh } from "../../../sheet/blob";
  import type { SheetScene } from "../../../sheet/scene";
  import { stage } from "../../../sheet/stage";
  import type { Vec } from "../../../sheet/vectors";
  import { wholeView } from "../../../sheet/whole";
  import Button from "../../../ui/Button.svelte";
  import Notice from "../../../ui/Notice.svelte";
  import { theme } from "../../../ui/theme.svelte";
  import { LOOKS } from "../../looks";
  import { middleOf, nearestTo, toldAt, type ReliefFields, type ToldAt } from "../relief";

  /** The tooth that was handed out, dressed in what the class took off: the median, against what is asked. */
  let { exerciseId }: { exerciseId: string } = $props();
  const SPAN_MM = 16;
  const DOUBT_MM = 0.03;
  const FEW = 0.95; // of a class that is not short: with fewer it is told
  const DOUBT_SHARE = 0.04;
  let canvas: HTMLCanvasElement;
  let frame: HTMLDivElement;
  let scene = $state.raw<SheetScene | null>(null);
  let facts = $state<ClassRelief | null>(null);
  let drawn = $state(0);
  let error = $state("");
  let told = $state<ToldAt | null>(null);
  let fields = $state.raw<ReliefFields | null>(null);
  let positions: Float32Array = new Float32Array(0);

  onMount(() => {
    const made = stage(canvas, frame, { press: (place) => press(place) });
    made.scene.onDraw = () => (drawn += 1);
    scene = made.scene;
    void show(made.scene);
    return made.leave;
  });
  async function show(on: SheetScene) {
    try {
      facts = await api.classRelief(exerciseId);
      const field = (name: string) => api.classReliefField(exerciseId, name);
      const [mesh, depth, least, most, short, over] = await Promise.all([
        api.blob(facts.mesh).then(parseMesh),
        field("depth"),
        field("least"),
        field("most"),
        field("short"),
        field("over"),
      ]);
      fields = { depth, least, most, short, over };
      positions = mesh.positions;
      for (const detail of ["light", "rest"] as const) on.setPrep(detail, mesh);
      on.look(wholeView(mesh).view, middleOf(mesh.positions, depth), SPAN_MM);
    } catch (e) {
      error = sentenceOf(e);
    }
  }
  function press(place: Vec | null) {
    if (!place || !fields) return;
    told = toldAt(fields, nearestTo(positions, place));
    scene?.setPlaces([place]);
  }
  const SHOWN = [
    ["share", "How many are short"],
    ["median", "How deep, the median"],
  ] as const;
  const LEGENDS = {
    median: [
      ["meets", "as deep as asked"],
      ["short", "the median falls short; a line every 0.1"],
      ["over", "the median is too deep"],
    ],
    share: [
      ["meets", "hardly anybody is short"],
      ["short", "some of the class are; a line every tenth of it"],
    ],
  } as const;
  let shown = $state<(typeof SHOWN)[number][0]>("share");
  $effect(() => {
    if (!scene || !fields) return;
    const none = new Float32Array(0);
    const wears =
      shown === "median"
        ? { value: fields.depth, low: fields.least, high: fields.most, unseen: none }
        : {
            value: fields.short.map((s) => 1 - s),
            low: fields.short.map((s) => s * 0 + FEW),
            high: none,
            unseen: none,
          };
    for (const detail of ["light", "rest"] as const) scene.setFields(detail, wears);
    scene.setMode("judged", shown === "median" ? DOUBT_MM : DOUBT_SHARE);
  });
  $effect(() => scene?.setGround(theme.ground, theme.dim));
</script>

<div class="grid h-full min-h-0 grid-rows-[auto_minmax(0,1fr)_auto]">
  <div class="flex gap-2 border-b border-rule px-4 py-2" role="group" aria-label="What is shown">
    {#each SHOWN as [name, label] (name)}
      <Button size="slim" pressed={shown === name} onclick={() => (shown = name)}>{label}</Button>
    {/each}
  </div>
  <div
    bind:this={frame}
    class="relative min-h-0 touch-none overflow-hidden select-none"
    role="img"
    aria-label="The tooth as it was handed out, with what the class took off"
  >
    <canvas bind:this={canvas} class="h-full w-full" data-drawn={fields && drawn ? "yes" : "no"}></canvas>
    {#if error}<div class="absolute inset-x-3 top-3"><Notice tone="error">{error}</Notice></div>{/if}
    {#if told}
      <div
        class="absolute top-3 left-3 rounded-md border border-rule bg-card px-3 py-2 text-base"
        role="status"
        aria-label="What the class did there"
      >
        {#if told.depth === null}
          Too few tell anything there.
        {:else}
          <p><b class="text-xl tabular-nums">{told.depth.toFixed(2)} mm</b> taken off, the median</p>
          {#if told.least !== null}<p class="tabular-nums">at least {told.least.toFixed(2)} asked</p>{/if}
          <p class="tabular-nums">
            {Math.round(100 * told.short)} % of the class short there, {Math.round(100 * told.over)} % too deep
          </p>
        {/if}
      </div>
    {/if}
  </div>
  {#if facts}
    <ul
      class="flex flex-wrap items-center gap-x-5 gap-y-1 border-t border-rule bg-card px-4 py-2"
      aria-label="Legend"
    >
      <li class="font-semibold">
        Median of {facts.cuts}
        {facts.cuts === 1 ? "preparation" : "preparations"}{facts.left_out
          ? `; ${facts.left_out} left out, whose scans do not fit`
          : ""}
      </li>
      {#each LEGENDS[shown] as [look, text] (look)}
        <li class="flex items-center gap-1.5">
          <i class="inline-block h-3.5 w-6 border border-rule" style="background: {LOOKS[look]}"></i>{text}
        </li>
      {/each}
      <li class="text-soft">Press the tooth to read a place.</li>
    </ul>
  {/if}
</div>
