<script lang="ts">
  import { onMount } from "svelte";
  import Button from "../../../ui/Button.svelte";
  import Choice from "../../../ui/Choice.svelte";
  import NumberField from "../../../ui/NumberField.svelte";
  import Notice from "../../../ui/Notice.svelte";
  import type { Rubrics } from "../rubrics.svelte";

  /** Ways to mark: what ships is copied and made one's own; an exercise keeps the version it was begun with. */
  let { model }: { model: Rubrics } = $props();
  onMount(() => void model.load());
  const field = "min-h-10 rounded-md border border-rule bg-card px-2 text-base";
  const GATHER = [
    { value: "mean", label: "mean of all places" },
    { value: "worst", label: "the worst place" },
  ];
  const marked = $derived(model.words.map((w) => ({ value: w.name, label: w.title })));
</script>

<section class="flex flex-col gap-3 rounded-lg border border-rule bg-card p-5" aria-label="Rubrics">
  <h2 class="text-lg font-semibold">Rubrics</h2>
  {#if model.error}<Notice tone="error">{model.error}</Notice>{/if}
  {#if model.saved}<p role="status">{model.saved}</p>{/if}
  {#if model.edited}
    {@const rubric = model.edited}
    <form class="flex flex-col gap-4" onsubmit={(e) => (e.preventDefault(), void model.save())}>
      <label class="flex flex-col gap-1"
        ><span class="text-sm text-soft">Title</span><input
          class={field}
          required
          maxlength="200"
          bind:value={rubric.title}
        /></label
      >
      <table class="w-full text-base" aria-label="Rows of the rubric">
        <thead
          ><tr class="text-left text-sm text-soft">
            <th class="py-1 font-normal">row and what it marks</th>
            <th class="px-2 text-right font-normal">weight</th>
            <th class="px-2 text-right font-normal">left at the limit, %</th>
            <th class="px-2 text-right font-normal">none left beyond it by</th>
            <th class="px-2 font-normal">of</th>
            <th></th>
          </tr></thead
        >
        <tbody>
          {#each rubric.rows as row, k (k)}
            <tr class="border-t border-rule align-top">
              <td class="py-2">
                <input class="{field} w-full font-semibold" aria-label="Row {k + 1}" bind:value={row.title} />
                <span class="flex flex-wrap gap-1 pt-1">
                  {#each row.criteria as name (name)}
                    <Button
                      size="tight"
                      aria-label="Do not mark {model.titleOf(name)} in row {k + 1}"
                      onclick={() => (row.criteria = row.criteria.filter((c) => c !== name))}
                      >{model.titleOf(name)} −</Button
                    >
                  {/each}
                  <Choice
                    compact
                    label="Also mark in row {k + 1}"
                    value=""
                    items={[
                      { value: "", label: "add …" },
                      ...marked.filter((m) => !row.criteria.includes(m.value)),
                    ]}
                    onchange={(name) => name && (row.criteria = [...row.criteria, name])}
                  />
                </span>
              </td>
              <td class="px-2 py-2 text-right"
                ><NumberField label="Weight of row {k + 1}" bind:value={row.weight} /></td
              >
              <td class="px-2 py-2 text-right"
                ><NumberField
                  label="Left at the limit in row {k + 1}"
                  max={100}
                  bind:value={() => Math.round(100 * row.at_limit), (v) => (row.at_limit = v / 100)}
                /></td
              >
              <td class="px-2 py-2 text-right"
                ><NumberField label="None left beyond the limit by, row {k + 1}" bind:value={row.fall} /></td
              >
              <td class="px-2 py-2"
                ><Choice
                  compact
                  label="Places of row {k + 1}"
                  value={row.gather}
                  items={GATHER}
                  onchange={(v) => (row.gather = v as "mean" | "worst")}
                /></td
              >
              <td class="py-2"
                ><Button
                  class="whitespace-nowrap"
                  size="slim"
                  aria-label="Take out row {k + 1}"
                  onclick={() => rubric.rows.splice(k, 1)}>Take out</Button
                ></td
              >
            </tr>
          {/each}
        </tbody>
      </table>
      <div><Button onclick={() => model.addRow()}>Add a row</Button></div>
      <h3 class="font-semibold">Grave faults leave no more than</h3>
      <ul class="flex flex-col gap-2" aria-label="Caps of the rubric">
        {#each rubric.caps as cap, k (k)}
          <li class="flex flex-wrap items-center gap-2">
            <Choice
              compact
              label="Fault of cap {k + 1}"
              value={cap.criterion}
              items={marked}
              onchange={(name) => (cap.criterion = name)}
            />
            <NumberField label="Most marks under cap {k + 1}" max={100} bind:value={cap.most} />
            <input class="{field} min-w-60 flex-1" aria-label="Reason of cap {k + 1}" bind:value={cap.says} />
            <Button size="slim" aria-label="Take out cap {k + 1}" onclick={() => rubric.caps.splice(k, 1)}
              >Take out</Button
            >
          </li>
        {/each}
      </ul>
      <div>
        <Button onclick={() => rubric.caps.push({ criterion: marked[0]?.value ?? "", most: 40, says: "" })}
          >Add a cap</Button
        >
      </div>
      <h3 class="font-semibold">Grades, the best first; the last begins at 0</h3>
      <ul class="flex flex-wrap gap-2" aria-label="Grades of the rubric">
        {#each rubric.steps as step, k (k)}
          <li class="flex items-center gap-1">
            <input class="{field} w-36" aria-label="Name of grade {k + 1}" bind:value={step.name} />
            <span>from</span>
            <NumberField label="Least of grade {k + 1}" max={100} bind:value={step.least} />
            <Button size="slim" aria-label="Take out grade {k + 1}" onclick={() => rubric.steps.splice(k, 1)}
              >−</Button
            >
          </li>
        {/each}
      </ul>
      <div class="flex flex-wrap gap-3">
        <Button onclick={() => rubric.steps.unshift({ name: "", least: 100 })}>Add a grade</Button>
        <Button type="submit" tone="main">Keep</Button>
        <Button onclick={() => (model.edited = null)}>Give up</Button>
      </div>
    </form>
  {:else}
    <ul class="flex flex-col">
      {#each model.all as rubric (rubric.id)}
        <li class="flex items-center gap-3 border-t border-rule py-2">
          <span class="min-w-0 flex-1"
            ><b>{rubric.title}</b>
            <span class="text-soft"
              >{rubric.restorations.map((r) => r.replaceAll("-", " ")).join(", ")} · version {rubric.version} ·
              {rubric.rows.map((row) => `${row.title} ${row.weight}`).join(", ")}</span
            ></span
          >
          <Button onclick={() => model.edit(rubric)}>{rubric.own ? "Edit" : "Copy and edit"}</Button>
        </li>
      {/each}
    </ul>
    <p class="text-sm text-soft">
      Exercises keep the version they were begun with. Weights and slopes are the school's to choose.
    </p>
  {/if}
</section>
