<script lang="ts">
  import Button from "../../../ui/Button.svelte";
  import type { Examine, Tool } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  const TOOLS: { name: Tool; title: string; says: string }[] = [
    { name: "pull", title: "Move points", says: "Drag a point, or press beside the line to pull it there." },
    {
      name: "line",
      title: "Draw line",
      says: "Press along the edge: two points or more for a stretch, all the way round for the whole.",
    },
    { name: "gingiva", title: "Gingiva", says: "Press along the gingiva's edge, all the way round." },
    { name: "core", title: "Core border", says: "Press along the border of the core, all the way round." },
  ];
  const tool = $derived(TOOLS.find((t) => t.name === model.tool)!);
  const kind = $derived(model.tool === "gingiva" || model.tool === "core" ? model.tool : "line");
  const edited = $derived((model.detail?.revisions[kind] ?? 0) > 0);
  const there = $derived(
    kind === "line"
      ? model.detail?.line_drawn
      : kind === "gingiva"
        ? model.detail?.gingiva
        : model.detail?.core,
  );
  const needsRing = $derived(kind !== "line" && !model.strokeCloses);

  function choose(name: Tool) {
    model.dropStroke();
    model.tool = name;
  }
</script>

<div
  class="absolute top-24 left-3 z-10 flex w-40 flex-col gap-2 rounded-md bg-paper/90 p-2"
  role="group"
  aria-label="By hand"
>
  {#each TOOLS as t (t.name)}
    <Button class="px-2!" pressed={model.tool === t.name} onclick={() => choose(t.name)}>{t.title}</Button>
  {/each}
  <p class="text-sm text-ink" aria-live="polite">{model.judging ? "Judging …" : tool.says}</p>
  {#if model.tool === "pull" || model.tool === "line"}
    <label class="flex min-h-9 items-center gap-2 text-base">
      <input type="checkbox" class="h-5 w-5 accent-pine" bind:checked={model.snap} /> snap to the edge
    </label>
  {/if}
  {#if model.stroke.length}
    <Button
      class="px-2!"
      tone="main"
      disabled={model.judging || model.stroke.length < 2 || needsRing}
      onclick={() => model.keepStroke()}>{model.strokeCloses ? "Use ring" : "Use stretch"}</Button
    >
    <Button class="px-2!" onclick={() => model.takeBack()}>Take point back</Button>
  {/if}
  {#if edited}
    <Button class="px-2!" disabled={model.judging} onclick={() => model.undo(kind)}>Undo</Button>
  {/if}
  {#if there}
    <Button class="px-2!" disabled={model.judging} onclick={() => model.forget(kind)}
      >{kind === "line" ? "As found" : "Remove"}</Button
    >
  {/if}
</div>
