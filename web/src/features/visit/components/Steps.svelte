<script lang="ts">
  import { api, type VisitSteps } from "../../../api/client";
  import Button from "../../../ui/Button.svelte";
  import NumberField from "../../../ui/NumberField.svelte";
  import OwnList from "./OwnList.svelte";

  /** The surgery's own list of steps. */
  let { leave }: { leave: () => void } = $props();
  const field = "min-h-10 min-w-0 rounded-md border border-rule bg-card px-2 text-base";
  const BETWEEN = " · ";

  function move(steps: VisitSteps["steps"], k: number, by: number) {
    if (k + by < 0 || k + by >= steps.length) return;
    [steps[k], steps[k + by]] = [steps[k + by]!, steps[k]!];
  }
</script>

<OwnList
  label="Steps of the surgery"
  load={api.visitSteps}
  keep={api.setVisitSteps}
  forget={api.forgetVisitSteps}
  {leave}
  add={(list) =>
    list.steps.push({ id: "", title: "", minutes: 5, hands: 1, away: false, each: false, reminders: [] })}
  addWords="Add a step"
  backWords="Back to the list that came with it"
  said="Holds for every visit from then on. What was logged stays as it was."
>
  {#snippet rows(list)}
    <ol class="flex flex-col gap-2">
      {#each list.steps as step, k (k)}
        <li class="rounded-md border border-rule bg-card p-2">
          <div class="flex flex-wrap items-center gap-2">
            <b class="w-6 text-right">{k + 1}</b>
            <input
              class="{field} flex-1 font-semibold"
              required
              maxlength="200"
              aria-label="Step {k + 1}"
              bind:value={step.title}
            />
            <label class="flex items-center gap-1"
              ><NumberField
                label="Minutes of step {k + 1}"
                min={0.5}
                max={600}
                width="w-20"
                bind:value={step.minutes}
              />min</label
            >
            <label class="flex items-center gap-1"
              ><NumberField
                label="People of step {k + 1}"
                min={1}
                max={4}
                width="w-16"
                bind:value={step.hands}
              />people</label
            >
            <Button size="slim" aria-label="Step {k + 1} earlier" onclick={() => move(list.steps, k, -1)}
              >▴</Button
            >
            <Button size="slim" aria-label="Step {k + 1} later" onclick={() => move(list.steps, k, 1)}
              >▾</Button
            >
            <Button size="slim" aria-label="Take out step {k + 1}" onclick={() => list.steps.splice(k, 1)}
              >Take out</Button
            >
          </div>
          <div class="flex flex-wrap items-center gap-4 pt-2 pl-8">
            <label class="flex min-h-9 items-center gap-2"
              ><input type="checkbox" class="size-5" bind:checked={step.each} />once a tooth</label
            >
            <label class="flex min-h-9 items-center gap-2"
              ><input type="checkbox" class="size-5" bind:checked={step.away} />the patient may leave
              meanwhile</label
            >
            <input
              class="{field} basis-full"
              aria-label="Reminders of step {k + 1}"
              placeholder="reminders, a · between them"
              value={step.reminders.join(BETWEEN)}
              onchange={(e) =>
                (step.reminders = e.currentTarget.value
                  .split("·")
                  .map((r) => r.trim())
                  .filter(Boolean))}
            />
          </div>
        </li>
      {/each}
    </ol>
  {/snippet}
</OwnList>
