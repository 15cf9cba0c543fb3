<script lang="ts">
  import { Progress } from "bits-ui";

  let { share, text }: { share: number; text: string } = $props();
</script>

<div class="flex flex-col gap-2">
  <Progress.Root
    value={Math.round(share * 100)}
    max={100}
    aria-label={text}
    class="h-4 overflow-hidden rounded-full border border-rule bg-paper"
  >
    <div class="h-full bg-pine transition-[width]" style="width: {Math.round(share * 100)}%"></div>
  </Progress.Root>
  <span class="text-soft">{text}, {Math.round(share * 100)} %</span>
</div>
