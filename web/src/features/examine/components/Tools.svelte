<script lang="ts">
  import { Blend, Columns2, FlipHorizontal2, Gauge, MapPin, PenLine, Slice } from "@lucide/svelte";
  import ToolRow, { type Tool } from "../../../ui/ToolRow.svelte";
  import type { Examine } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  const tools = $derived<Tool[]>([
    { title: "Section", hint: "Cut through both scans (S)", icon: Slice, on: model.panel === "section", press: () => model.togglePanel("section") },
    { title: "Taper, line", hint: "Taper of the walls, the finish line unrolled (R)", icon: Gauge, on: model.panel === "form", press: () => model.togglePanel("form") },
    { title: "Simulate", hint: "Try a stroke and see what would follow (B)", icon: PenLine, on: model.brush.on, off: !model.document, press: () => model.brush.toggle() },
    { title: "Opposing", hint: "The opposing teeth, see-through (G)", icon: Blend, on: model.opposing.shown, off: !model.document?.clearance, press: () => void model.opposing.show(!model.opposing.shown) },
    { title: "Pin", hint: "Mark places: a pin reads every lens, two of them measure (I)", icon: MapPin, on: model.pins.on, off: !model.document, press: () => (model.pins.on = !model.pins.on) },
    { title: "Beside", hint: "Another attempt beside this one (C)", icon: Columns2, on: model.beside.on, off: !model.beside.offered, press: () => void model.beside.toggle() },
    { title: "Mirror", hint: "As seen in a mouth mirror (X)", icon: FlipHorizontal2, on: model.mirrored, press: () => (model.mirrored = !model.mirrored) },
  ]); // prettier-ignore
</script>

<ToolRow {tools} part="Tools: slice, unroll, try strokes, pin, compare" />
