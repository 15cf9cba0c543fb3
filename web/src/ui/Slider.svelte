<script lang="ts">
  import { Slider } from "bits-ui";

  interface Props {
    label: string;
    value: number;
    min: number;
    max: number;
    step: number;
    disabled?: boolean;
    onchange: (value: number) => void;
  }
  let { label, value, min, max, step, disabled = false, onchange }: Props = $props();
</script>

<Slider.Root
  type="single"
  {value}
  {min}
  {max}
  {step}
  {disabled}
  onValueChange={onchange}
  class="relative flex min-h-11 w-full touch-none items-center select-none data-disabled:opacity-45"
>
  <span class="relative h-1.5 w-full grow overflow-hidden rounded-full bg-rule">
    <Slider.Range class="absolute h-full bg-pine" />
  </span>
  <Slider.Thumb
    index={0}
    aria-label={label}
    class="block h-6 w-6 cursor-pointer rounded-full border-2 border-pine bg-card"
  />
</Slider.Root>
