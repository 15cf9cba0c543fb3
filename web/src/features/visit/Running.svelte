<script lang="ts">
  import { Volume2, VolumeX } from "@lucide/svelte";
  import { router } from "../../router.svelte";
  import { clockText } from "./clock";
  import { visiting } from "./state.svelte";

  let { caseId }: { caseId: string } = $props();
  $effect(() => visiting.follow(caseId));
  $effect(() => {
    document.documentElement.style.setProperty("--strip", visiting.running.length ? "3.25rem" : "0px");
  });
  const TONES = {
    waiting: "bg-pine text-pine-ink",
    ready: "bg-card text-ink outline-2 outline-pine",
    over: "bg-short text-paper motion-safe:animate-pulse",
  };
</script>

{#if visiting.running.length}
  <section
    class="fixed inset-x-0 bottom-0 z-40 flex h-13 items-center gap-3 overflow-x-auto border-t-2 border-pine bg-paper px-4"
    aria-label="What is running"
    data-part="What is running in this visit: press to stop it"
  >
    {#each visiting.running as entry (entry.id)}
      {#if entry.kind === "timer"}
        <button
          type="button"
          class="flex min-h-11 shrink-0 items-center gap-2 rounded-md px-3 text-lg font-semibold tabular-nums {TONES[
            visiting.timerState(entry)
          ]}"
          title="Stop this timer"
          onclick={() => void visiting.stop(entry)}
          ><span>{visiting.title(entry)}</span> <b>{visiting.says(entry)}</b></button
        >
      {:else}
        <a
          class="flex min-h-11 shrink-0 items-center gap-2 text-base text-ink tabular-nums"
          href="/case/{caseId}/visit"
          onclick={(e) => (e.preventDefault(), router.go(`/case/${caseId}/visit`))}
          >{visiting.title(entry)} <b>{clockText(visiting.elapsed(entry))}</b></a
        >
      {/if}
    {/each}
    {#if visiting.timers.length}
      <button
        type="button"
        class="ml-auto flex min-h-11 min-w-11 shrink-0 items-center justify-center rounded-md border border-rule bg-card"
        aria-pressed={visiting.muted}
        aria-label="No sound"
        title={visiting.muted ? "Timers end without a sound" : "Timers end with a sound"}
        onclick={() => visiting.mute()}
      >
        {#if visiting.muted}<VolumeX size={20} aria-hidden="true" />{:else}<Volume2
            size={20}
            aria-hidden="true"
          />{/if}
      </button>
    {/if}
  </section>
{/if}
