<script lang="ts">
  import Button from "./Button.svelte";
  import { undo } from "./undo.svelte";
</script>

{#if undo.text}
  <div
    role="status"
    aria-label="Put away"
    class="fixed bottom-16 left-1/2 z-40 flex -translate-x-1/2 items-center gap-3 rounded-md border-2 border-pine bg-card px-4 py-2 shadow-lg"
  >
    <span class="text-lg"
      >{undo.text}{#if undo.error}<br /><b class="text-short">{undo.error}</b>{/if}</span
    >
    <Button tone="main" onclick={() => void undo.take()}>Take back</Button>
    <Button onclick={() => undo.drop()}>Close</Button>
  </div>
{/if}
