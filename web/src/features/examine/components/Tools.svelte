<script lang="ts">
  import { Blend, FlipHorizontal2, Gauge, PenLine, Slice } from "@lucide/svelte";
  import type { Component } from "svelte";
  import type { Examine } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  interface Tool {
    title: string;
    key: string;
    hint: string;
    icon: Component;
    on: boolean;
    off?: boolean;
    press: () => void;
  }
  const tools = $derived<Tool[]>([
    { title: "Section", key: "S", hint: "Cut through both scans", icon: Slice, on: model.panel === "section", press: () => model.togglePanel("section") },
    { title: "Taper, line", key: "R", hint: "Taper of the walls, the finish line unrolled", icon: Gauge, on: model.panel === "form", press: () => model.togglePanel("form") },
    { title: "Simulate", key: "B", hint: "Try a stroke and see what would follow", icon: PenLine, on: model.brush.on, off: !model.document, press: () => model.brush.toggle() },
    { title: "Opposing", key: "G", hint: "The opposing teeth, see-through", icon: Blend, on: model.showOpposing, off: !model.document?.clearance, press: () => void model.setOpposing(!model.showOpposing) },
    { title: "Mirror", key: "X", hint: "As seen in a mouth mirror", icon: FlipHorizontal2, on: model.mirrored, press: () => (model.mirrored = !model.mirrored) },
  ]); // prettier-ignore
</script>

<div
  class="flex flex-wrap overflow-hidden rounded-md border border-rule bg-card/95"
  role="group"
  aria-label="Tools of the sheet"
>
  {#each tools as tool (tool.key)}
    <button
      type="button"
      aria-pressed={tool.on}
      disabled={tool.off}
      title="{tool.hint} ({tool.key})"
      class="flex min-h-11 items-center gap-1.5 border-r border-rule px-3 text-[0.95rem] whitespace-nowrap last:border-r-0 hover:bg-paper disabled:opacity-45
        {tool.on ? 'bg-pine font-semibold text-pine-ink hover:bg-pine' : ''}"
      onclick={tool.press}
    >
      <tool.icon size={18} aria-hidden="true" /><span class={model.beside ? "max-[1500px]:sr-only" : ""}
        >{tool.title}</span
      >
    </button>
  {/each}
</div>
