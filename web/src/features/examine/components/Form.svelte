<script lang="ts">
  import type { Examine } from "../state.svelte";
  import PathTilt from "./PathTilt.svelte";
  import Rose from "./Rose.svelte";
  import Strip from "./Strip.svelte";

  let { model }: { model: Examine } = $props();
  const cavity = $derived(!!model.document?.cavity);
  /** A veneer has no walls round an axis that a rose could show. */
  const veneer = $derived(!!model.document?.veneer);
</script>

<section class="flex h-full flex-col gap-3 overflow-y-auto bg-card p-3" aria-label="Form">
  {#if !veneer}
    <h2 class="text-lg font-semibold">
      {cavity ? "Divergence of the walls" : "Taper of the walls"}
      <span class="text-sm font-normal text-soft">the rose</span>
    </h2>
    <Rose {model} />
  {/if}
  <h2 class="text-lg font-semibold">
    {cavity ? "Outline unrolled" : "Finish line unrolled"}
    <span class="text-sm font-normal text-soft">the strip</span>
  </h2>
  <Strip {model} />
  <PathTilt {model} />
</section>
