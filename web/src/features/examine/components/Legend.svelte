<script lang="ts">
  import { LOOKS } from "../../looks";
  import { words } from "../../vocabulary.svelte";
  import type { Examine } from "../state.svelte";

  /** What the sheet's colours and patterns mean under the lens that is chosen; nothing else. */
  let { model }: { model: Examine } = $props();
  const lens = $derived(words.lens(model.lens));
</script>

{#if lens}
  <ul
    class="flex flex-wrap items-center gap-x-5 gap-y-1"
    aria-label="Legend: {lens.title}"
    data-part="Legend of this lens: what colours and lines mean"
  >
    <li class="font-semibold text-ink">{lens.says}</li>
    {#each lens.legend as patch (patch.look + patch.text)}
      <li class="flex items-center gap-1.5">
        <i class="inline-block h-3.5 w-6 border border-rule" style="background: {LOOKS[patch.look]}"
        ></i>{patch.text}
      </li>
    {/each}
  </ul>
{/if}
