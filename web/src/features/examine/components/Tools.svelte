<script lang="ts">
  import { Blend, Columns2, FlipHorizontal2, Gauge, MapPin, PenLine, Slice } from "@lucide/svelte";
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
    { title: "Pin", key: "I", hint: "Mark places: a pin reads every lens, two of them measure", icon: MapPin, on: model.pins.on, off: !model.document, press: () => (model.pins.on = !model.pins.on) },
    { title: "Beside", key: "C", hint: "Another attempt beside this one", icon: Columns2, on: model.beside.on, off: !model.beside.offered, press: () => void model.beside.toggle() },
    { title: "Mirror", key: "X", hint: "As seen in a mouth mirror", icon: FlipHorizontal2, on: model.mirrored, press: () => (model.mirrored = !model.mirrored) },
  ]); // prettier-ignore
</script>

<div
  class="flex flex-wrap overflow-hidden rounded-md border border-rule bg-card/95"
  role="group"
  data-picture="no"
  data-walk="tools"
  data-part="Tools: slice, unroll, try strokes, pin, compare"
  aria-label="Tools of the sheet"
>
  {#each tools as tool (tool.key)}
    <button
      type="button"
      aria-pressed={tool.on}
      disabled={tool.off}
      title="{tool.hint} ({tool.key})"
      class="flex min-h-11 items-center gap-1.5 border-r border-rule px-2.5 text-[0.95rem] whitespace-nowrap last:border-r-0 hover:bg-paper disabled:opacity-45
        {tool.on ? 'bg-pine font-semibold text-pine-ink hover:bg-pine' : ''}"
      onclick={tool.press}
    >
      <tool.icon size={18} aria-hidden="true" /><span class="@max-[42rem]:sr-only">{tool.title}</span>
    </button>
  {/each}
</div>
