<script lang="ts">
  import { onMount } from "svelte";
  import { api, sentenceOf, type LookMark } from "../../api/client";
  import { router } from "../../router.svelte";
  import { parseMesh } from "../../sheet/blob";
  import type { SheetScene } from "../../sheet/scene";
  import { stage } from "../../sheet/stage";
  import { vec, type Vec } from "../../sheet/vectors";
  import { wholeView } from "../../sheet/whole";
  import Button from "../../ui/Button.svelte";
  import HelpAndTheme from "../../ui/HelpAndTheme.svelte";
  import Home from "../../ui/Home.svelte";
  import Notice from "../../ui/Notice.svelte";
  import { theme } from "../../ui/theme.svelte";
  import { AMOUNTS, SAID, wordOf } from "./marks";

  /** Look first: the plain tooth, no colours and no verdict; what the eye sees is marked, then both are laid together. */
  let { caseId }: { caseId: string } = $props();
  const reading = router.query.get("attempt") ?? "";
  const MM = "mm";
  let canvas: HTMLCanvasElement;
  let frame: HTMLDivElement;
  let scene = $state.raw<SheetScene | null>(null);
  let drawn = $state(0);
  let marks = $state<LookMark[]>([]);
  let said = $state<string>(SAID[0].value);
  let amount = $state<number | null>(null);
  let error = $state("");
  let sending = $state(false);

  onMount(() => {
    const made = stage(canvas, frame, { press });
    made.scene.onDraw = () => (drawn += 1);
    scene = made.scene;
    void show(made.scene);
    return made.leave;
  });
  async function show(on: SheetScene) {
    try {
      const detail = await api.reading(reading);
      const prep = detail.scans.find((s) => s.role === "prep");
      if (!prep) throw new Error("There is no scan of the preparation yet.");
      const mesh = parseMesh(await api.blob(prep.rest_hash));
      const { view, middle, span } = wholeView(mesh);
      on.setPrep("rest", mesh);
      on.look(view, middle, span);
    } catch (e) {
      error = sentenceOf(e);
    }
  }
  $effect(() => scene?.setGround(theme.ground, theme.dim));
  $effect(() => scene?.setPlaces(marks.map((m) => vec(m.at))));
  function press(place: Vec | null) {
    if (place) marks = [...marks, { at: [...place], said, amount_mm: hasAmount ? amount : null }];
  }
  const hasAmount = $derived(["short", "over", "undercut", "line"].includes(said));
  const labels = $derived.by(() => {
    void drawn;
    return scene ? marks.map((m, k) => ({ k: k + 1, ...scene!.project(vec(m.at)) })) : [];
  });
  async function send(what: LookMark[]) {
    sending = true;
    try {
      await api.addLook(reading, what);
      router.go(`/case/${caseId}?attempt=${reading}`);
    } catch (e) {
      error = sentenceOf(e);
      sending = false;
    }
  }
</script>

<div class="grid h-page min-h-[38rem] grid-rows-[auto_minmax(0,1fr)]">
  <header class="flex flex-wrap items-center gap-4 border-b border-rule bg-card px-4 py-2">
    <Home />
    <h1 class="text-lg font-normal"><b>Look first</b> · before the verdict is shown</h1>
    <div class="ml-auto flex gap-2"><HelpAndTheme /></div>
  </header>
  <main class="grid min-h-0 grid-cols-[minmax(0,1fr)_22.5rem]">
    <div
      bind:this={frame}
      class="relative min-h-0 touch-none overflow-hidden select-none"
      role="img"
      aria-label="The preparation, {marks.length} places marked"
    >
      <canvas bind:this={canvas} class="h-full w-full" data-drawn={drawn ? "yes" : "no"}></canvas>
      {#each labels as label (label.k)}
        <span
          class="pointer-events-none absolute -translate-x-1/2 -translate-y-[130%] rounded bg-pine px-2 font-semibold text-pine-ink {label.facing
            ? ''
            : 'opacity-40'}"
          style="left: {label.x}px; top: {label.y}px">{label.k}</span
        >
      {/each}
    </div>
    <aside class="flex min-h-0 flex-col gap-3 overflow-y-auto border-l border-rule bg-card p-4">
      {#if error}<Notice tone="error">{error}</Notice>{/if}
      <p>Turn the tooth by dragging. Choose what you see, guess how much, and press the place.</p>
      <div class="flex flex-wrap gap-2" role="group" aria-label="What is wrong there">
        {#each SAID as one (one.value)}
          <Button size="slim" pressed={said === one.value} onclick={() => (said = one.value)}
            >{one.label}</Button
          >
        {/each}
      </div>
      {#if hasAmount}
        <div class="flex flex-wrap gap-2" role="group" aria-label="By how much">
          {#each AMOUNTS as mm (mm)}
            <Button size="tight" pressed={amount === mm} onclick={() => (amount = amount === mm ? null : mm)}
              >{mm.toFixed(1)} {MM}</Button
            >
          {/each}
        </div>
      {/if}
      <ol class="flex flex-col" aria-label="Marked places">
        {#each marks as mark, k (k)}
          <li class="flex items-center justify-between gap-2 border-t border-rule">
            <span
              ><b>{k + 1}</b>
              {wordOf(mark.said)}{mark.amount_mm == null ? "" : `, ${mark.amount_mm.toFixed(1)} ${MM}`}</span
            >
            <Button
              size="slim"
              aria-label="Take mark {k + 1} away"
              onclick={() => (marks = marks.filter((_, j) => j !== k))}>Take away</Button
            >
          </li>
        {/each}
      </ol>
      <div class="mt-auto flex flex-col gap-2">
        <Button tone="main" disabled={sending || !marks.length} onclick={() => void send(marks)}
          >That is what I see: show the verdict</Button
        >
        <Button disabled={sending} onclick={() => void send([])}>I see nothing wrong</Button>
        <p class="text-sm text-soft">Once only: afterwards both are laid over each other.</p>
      </div>
    </aside>
  </main>
</div>
