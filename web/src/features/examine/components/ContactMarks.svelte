<script lang="ts">
  import type { SheetScene } from "../../../sheet/scene";
  import { vec } from "../../../sheet/vectors";
  import { CHANGES, sizeOf, toothOf } from "../bite";
  import type { Examine } from "../state.svelte";
  import ContactSign from "./ContactSign.svelte";

  /** Where the teeth meet, marked on the teeth under the lens that looks at room; what is turned away is not shown. */
  let { model, scene, width }: { model: Examine; scene: SheetScene | null; width: number } = $props();
  const marks = $derived.by(() => {
    void model.drawn;
    if (model.lens !== "space" || model.beside.on || model.opposing.shown || !scene) return [];
    return (model.document?.contacts ?? []).flatMap((contact, index) => {
      const at = model.screen(vec(contact.at));
      if (!at || !scene.visible(vec(contact.at))) return [];
      return [{ index, contact, x: model.mirrored ? width - at.x : at.x, y: at.y }];
    });
  });
</script>

{#each marks as { index, contact, x, y } (index)}
  <span
    class="pointer-events-none absolute z-10 -translate-x-1/2 -translate-y-1/2"
    style="left: {x}px; top: {y}px"
    role="img"
    aria-label="Contact, {toothOf(contact)}, {CHANGES[contact.change]}"
    ><ContactSign change={contact.change} size={sizeOf(contact)} /></span
  >
{/each}
