<script lang="ts">
  import type { HTMLInputAttributes } from "svelte/elements";

  interface Props extends HTMLInputAttributes {
    label: string;
    value: string;
    tall?: boolean;
  }
  let { label, value = $bindable(), tall = false, ...rest }: Props = $props();
</script>

<label class="flex flex-col gap-1">
  <span class={tall ? "" : "text-sm text-soft"}>{label}</span>
  <input
    class="rounded-md border border-rule bg-card px-3 {tall ? 'min-h-12 text-lg' : 'min-h-11 text-base'}"
    bind:value
    {...rest}
  />
</label>
