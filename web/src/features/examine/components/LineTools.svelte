<script lang="ts">
  import Button from "../../../ui/Button.svelte";
  import type { Tool } from "../hand.svelte";
  import type { Examine } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  const TOOLS: { name: Tool; title: string; says: string }[] = [
    { name: "pull", title: "Move points", says: "Drag a point, or press beside the line." },
    {
      name: "line",
      title: "Draw line",
      says: "Press along the finish line: two points or more for a stretch, all the way round for the whole.",
    },
    { name: "gingiva", title: "Gingiva", says: "Press along the gingiva's edge, all the way round." },
    { name: "core", title: "Core border", says: "Press along the border of the core, all the way round." },
  ];
  const tool = $derived(TOOLS.find((t) => t.name === model.hand.tool)!);
  const kind = $derived(
    model.hand.tool === "gingiva" || model.hand.tool === "core" ? model.hand.tool : "line",
  );
  const edited = $derived((model.detail?.revisions[kind] ?? 0) > 0);
  const there = $derived(
    kind === "line"
      ? model.detail?.line_drawn
      : kind === "gingiva"
        ? model.detail?.gingiva
        : model.detail?.core,
  );
  const needsRing = $derived(kind !== "line" && !model.hand.closes);

  function choose(name: Tool) {
    model.hand.drop();
    model.hand.tool = name;
  }
</script>

<!-- Beside the rose and strip the sheet is narrow: the tools lie over the tooth, not on it. -->
<div
  class="pointer-events-none absolute inset-0 z-10 [&_button]:pointer-events-auto [&_label]:pointer-events-auto"
  role="group"
  aria-label="By hand"
>
  <div
    class={model.aside
      ? "contents"
      : "absolute top-3 left-3 flex w-40 flex-col gap-2 rounded-md bg-paper/90 p-2"}
  >
    <div class={model.aside ? "absolute top-3 left-3 flex gap-2" : "flex flex-col gap-2"}>
      {#each TOOLS as t (t.name)}
        <Button size="tight" pressed={model.hand.tool === t.name} onclick={() => choose(t.name)}
          >{t.title}</Button
        >
      {/each}
    </div>
    <div
      class={model.aside
        ? "absolute top-16 right-3 left-3 flex flex-wrap items-center gap-x-3 gap-y-1 rounded-md bg-paper/90 px-2"
        : "flex flex-col gap-2"}
    >
      <p class="text-sm text-ink" aria-live="polite">{model.judging ? "Judging …" : tool.says}</p>
      {#if model.hand.tool === "pull" || model.hand.tool === "line"}
        <label class="flex min-h-9 items-center gap-2 text-base">
          <input type="checkbox" class="h-5 w-5 accent-pine" bind:checked={model.hand.snap} /> snap to the finish
          line
        </label>
      {/if}
      {#if model.hand.stroke.length}
        <Button
          size="tight"
          tone="main"
          disabled={model.judging || model.hand.stroke.length < 2 || needsRing}
          onclick={() => model.hand.keep()}>{model.hand.closes ? "Use ring" : "Use stretch"}</Button
        >
        <Button size="tight" onclick={() => model.hand.takeBack()}>Take point back</Button>
      {/if}
      {#if edited}
        <Button size="tight" disabled={model.judging} onclick={() => model.undo(kind)}>Undo</Button>
      {/if}
      {#if there}
        <Button size="tight" disabled={model.judging} onclick={() => model.forget(kind)}
          >{kind === "line" ? "As found" : "Remove"}</Button
        >
      {/if}
    </div>
  </div>
</div>
