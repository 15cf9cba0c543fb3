<script lang="ts">
  import { ChevronDown } from "@lucide/svelte";
  import { Select } from "bits-ui";

  interface Props {
    label: string;
    value: string;
    items: { value: string; label: string; hint?: string }[];
    onchange: (value: string) => void;
    compact?: boolean;
  }
  let { label, value, items, onchange, compact = false }: Props = $props();
  const chosen = $derived(items.find((item) => item.value === value)?.label ?? "Choose");
</script>

<div class="flex flex-col gap-1">
  {#if !compact}<span class="text-sm text-soft">{label}</span>{/if}
  <Select.Root type="single" {value} onValueChange={onchange} {items}>
    <Select.Trigger
      aria-label="{label}: {chosen}"
      class="flex min-h-11 items-center justify-between gap-2 rounded-md border border-rule bg-card px-3 text-left text-base text-ink"
    >
      <span class="truncate">{chosen}</span><ChevronDown size={18} aria-hidden="true" />
    </Select.Trigger>
    <Select.Portal>
      <Select.Content
        sideOffset={4}
        class="z-50 max-h-96 min-w-64 overflow-y-auto rounded-md border border-rule bg-card p-1 text-ink shadow-lg"
      >
        {#each items as item (item.value)}
          <Select.Item
            value={item.value}
            label={item.label}
            class="cursor-pointer rounded px-3 py-2 data-highlighted:bg-pine data-highlighted:text-pine-ink data-selected:font-semibold"
          >
            {item.label}
            {#if item.hint}<span class="block text-sm opacity-80">{item.hint}</span>{/if}
          </Select.Item>
        {/each}
      </Select.Content>
    </Select.Portal>
  </Select.Root>
</div>
