<script lang="ts">
  import { onMount } from "svelte";
  import { api, sentenceOf, type VisitTimers } from "../../../api/client";
  import Button from "../../../ui/Button.svelte";
  import NumberField from "../../../ui/NumberField.svelte";
  import Notice from "../../../ui/Notice.svelte";

  /** The surgery's own timers: what is kept holds for every visit from then on. */
  let { leave }: { leave: () => void } = $props();
  let list = $state<VisitTimers | null>(null);
  let error = $state("");

  onMount(() => void attempt(async () => void (list = await api.visitTimers())));
  async function attempt(work: () => Promise<void>) {
    error = "";
    try {
      await work();
    } catch (e) {
      error = sentenceOf(e);
    }
  }
  const keep = () =>
    attempt(async () => {
      if (list) await api.setVisitTimers($state.snapshot(list) as VisitTimers);
      leave();
    });
  const forget = () =>
    attempt(async () => {
      if (list) await api.forgetVisitTimers(list.revision);
      leave();
    });
  const add = () => list?.timers.push({ id: "", title: "", least_s: 60, most_s: 0 });
</script>

<form
  class="flex flex-col gap-3 p-4"
  aria-label="Timers of the surgery"
  onsubmit={(e) => (e.preventDefault(), void keep())}
>
  {#if error}<Notice tone="error">{error}</Notice>{/if}
  <ul class="flex flex-col gap-2">
    {#each list?.timers ?? [] as timer, k (k)}
      <li class="flex flex-wrap items-center gap-2 rounded-md border border-rule bg-card p-2">
        <input
          class="min-h-10 min-w-48 flex-1 rounded-md border border-rule bg-card px-2 text-base font-semibold"
          required
          maxlength="200"
          aria-label="Timer {k + 1}"
          bind:value={timer.title}
        />
        <label class="flex items-center gap-1"
          >at least<NumberField
            label="Least seconds of timer {k + 1}"
            min={1}
            max={14400}
            width="w-24"
            bind:value={timer.least_s}
          />s</label
        >
        <label class="flex items-center gap-1"
          >at most<NumberField
            label="Most seconds of timer {k + 1}"
            min={0}
            max={14400}
            width="w-24"
            bind:value={timer.most_s}
          />s</label
        >
        <Button size="slim" aria-label="Take out timer {k + 1}" onclick={() => list?.timers.splice(k, 1)}
          >Take out</Button
        >
      </li>
    {/each}
  </ul>
  <div class="flex flex-wrap gap-3">
    <Button onclick={add}>Add a timer</Button>
    <Button type="submit" tone="main">Keep</Button>
    <Button onclick={leave}>Give up</Button>
    {#if list?.own}<Button onclick={() => void forget()}>Back to those that came with it</Button>{/if}
  </div>
  <p class="text-sm text-soft">
    At most 0: longer does no harm. Holds for every visit from then on; the material's instructions come
    first.
  </p>
</form>
