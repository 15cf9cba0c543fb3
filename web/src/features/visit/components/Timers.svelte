<script lang="ts">
  import { api } from "../../../api/client";
  import Button from "../../../ui/Button.svelte";
  import NumberField from "../../../ui/NumberField.svelte";
  import OwnList from "./OwnList.svelte";

  /** The surgery's own timers. */
  let { leave }: { leave: () => void } = $props();
  const ENDS = [
    ["least_s", "at least", "Least", 1],
    ["most_s", "at most", "Most", 0],
  ] as const;
</script>

<OwnList
  label="Timers of the surgery"
  load={api.visitTimers}
  keep={api.setVisitTimers}
  forget={api.forgetVisitTimers}
  {leave}
  add={(list) => list.timers.push({ id: "", title: "", least_s: 60, most_s: 0 })}
  addWords="Add a timer"
  backWords="Back to those that came with it"
  said="At most 0: longer does no harm. Holds for every visit from then on; the material's instructions come first."
>
  {#snippet rows(list)}
    <ul class="flex flex-col gap-2">
      {#each list.timers as timer, k (k)}
        <li class="flex flex-wrap items-center gap-2 rounded-md border border-rule bg-card p-2">
          <input
            class="min-h-10 min-w-48 flex-1 rounded-md border border-rule bg-card px-2 text-base font-semibold"
            required
            maxlength="200"
            aria-label="Timer {k + 1}"
            bind:value={timer.title}
          />
          {#each ENDS as [end, words, name, least] (end)}
            <label class="flex items-center gap-1"
              >{words}<NumberField
                label="{name} seconds of timer {k + 1}"
                min={least}
                max={14400}
                width="w-24"
                bind:value={timer[end]}
              />s</label
            >
          {/each}
          <Button size="slim" aria-label="Take out timer {k + 1}" onclick={() => list.timers.splice(k, 1)}
            >Take out</Button
          >
        </li>
      {/each}
    </ul>
  {/snippet}
</OwnList>
