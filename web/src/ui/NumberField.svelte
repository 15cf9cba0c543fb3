<script lang="ts">
  interface Props {
    value: number;
    label: string;
    min?: number;
    max?: number;
    width?: string;
  }
  /** A number in a table or a line of an editor. */
  let { value = $bindable(), label, min = 0, max, width = "w-24" }: Props = $props();
</script>

<input
  class="min-h-10 min-w-0 rounded-md border border-rule bg-card px-2 text-right text-base tabular-nums {width}"
  type="number"
  step="any"
  {min}
  {max}
  aria-label={label}
  bind:value
/>
