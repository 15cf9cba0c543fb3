<script lang="ts">
  import Button from "./Button.svelte";
  import Meter from "./Meter.svelte";

  /** How far a job is, and the way to end it. */
  let { share, text, cancel }: { share: number; text: string; cancel: () => unknown } = $props();
</script>

<div class="flex flex-col gap-3 p-4">
  <Meter {share} {text} />
  <Button tone="danger" onclick={() => void cancel()}>Cancel</Button>
</div>
