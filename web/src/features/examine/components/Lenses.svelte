<script lang="ts">
  import { ToggleGroup } from "bits-ui";
  import type { Examine } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  const narrow = $derived(model.aside !== null);
  const lenses = $derived(model.lenses);
</script>

<ToggleGroup.Root
  type="single"
  value={model.lens}
  onValueChange={(name) => name && void model.setLens(name)}
  aria-label="Lenses"
  class="flex flex-wrap border-b border-rule bg-card"
  data-part="Lenses: what the colours on the tooth are about"
>
  {#each lenses as lens, k (lens.name)}
    <ToggleGroup.Item
      value={lens.name}
      title={lens.says}
      class="min-h-11 min-w-fit flex-1 border-r border-rule px-1 leading-tight {narrow
        ? 'text-sm'
        : 'text-[0.95rem]'} last:border-r-0 hover:bg-paper data-[state=on]:bg-pine data-[state=on]:font-semibold data-[state=on]:text-pine-ink"
    >
      {lens.title}{#if !narrow}&nbsp;<kbd class="text-xs opacity-80">{k + 1}</kbd>{/if}
    </ToggleGroup.Item>
  {/each}
</ToggleGroup.Root>
