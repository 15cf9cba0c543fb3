<script lang="ts">
  import type { PlanDocument } from "../../../api/client";
  import { figuresTold } from "../document";

  /** Which crown of the set would go on the planned preparation, and what no scan before cutting shows. */
  let { child }: { child: NonNullable<PlanDocument["child"]> } = $props();
  const off = $derived(
    figuresTold([
      ["each side between the teeth", child.slice_mm],
      ["all round, at the contour", child.around_mm],
      ["face and back, only rounded", child.face_mm],
      ["edge taken down", child.edge_lowered_mm],
      ["walls go on below the gingiva, unseen", child.below_gingiva_mm],
    ]),
  );
</script>

<section class="border-b border-rule px-4 py-3">
  <h2 class="text-lg font-semibold">What would come of it</h2>
  {#if child.first_try != null}
    <p class={child.goes_on ? "font-semibold" : "font-semibold text-short"}>
      Size {child.first_try}, as wide as the tooth ({child.mesiodistal_mm?.toFixed(1)} mm), {child.goes_on
        ? "goes on"
        : "does not go on"}
    </p>
  {/if}
  {#if child.size == null}
    <p class="font-semibold text-short">No size of the set goes on.</p>
  {:else if child.size !== child.first_try}
    <p>The smallest that goes on is size {child.size}.</p>
  {/if}
  <dl class="grid grid-cols-[1fr_auto] gap-x-3">
    {#each off as { what, mm } (what)}
      <dt>{what}</dt>
      <dd class="text-right font-semibold">{mm.toFixed(2)} mm</dd>
    {/each}
  </dl>
</section>
