<script lang="ts">
  import { onMount } from "svelte";
  import { router } from "../router.svelte";
  import { arrivals } from "./arrivals.svelte";
  import Button from "./Button.svelte";

  onMount(() => arrivals.start());
  const STATES: Record<string, string> = {
    waiting: "waiting to be measured",
    running: "being measured",
    done: "measured",
    failed: "could not be measured",
    cancelled: "cancelled",
  };
</script>

{#if arrivals.shown.length}
  <div
    class="fixed top-32 left-1/3 z-40 flex -translate-x-1/2 flex-col gap-2"
    role="status"
    aria-label="New scans"
  >
    {#each arrivals.shown as a (a.id)}
      <div class="flex items-center gap-3 rounded-md border-2 border-pine bg-card px-4 py-2 shadow-lg">
        {#if a.case_id}
          <span class="text-lg"
            ><b>{a.case_code}</b>, new scan, attempt {a.attempt_number}: {STATES[a.state] ?? a.state}</span
          >
          <Button
            tone="main"
            onclick={() => (arrivals.later(a.id), router.go(`/case/${a.case_id}?attempt=${a.reading_id}`))}
            >Open</Button
          >
        {:else}
          <span class="max-w-xl">{a.name} was not taken: {a.error}</span>
        {/if}
        <Button onclick={() => arrivals.later(a.id)}>Later</Button>
      </div>
    {/each}
  </div>
{/if}
