<script lang="ts">
  import Button from "../../../ui/Button.svelte";
  import Choice from "../../../ui/Choice.svelte";
  import type { Library } from "../state.svelte";

  let { model }: { model: Library } = $props();
  const field = "min-h-10 rounded-md border border-rule bg-card px-2 text-base";
  const kindsOf = (sequence: { restorations: string[] }) =>
    sequence.restorations.map((r) => r.replace("-", " ")).join(", ");
  function move(k: number, by: number) {
    const steps = model.order?.steps;
    if (!steps || k + by < 0 || k + by >= steps.length) return;
    [steps[k], steps[k + by]] = [steps[k + by]!, steps[k]!];
  }
</script>

{#if model.order}
  <form class="flex flex-col gap-3" onsubmit={(e) => (e.preventDefault(), void model.saveOrder())}>
    <label class="flex flex-col gap-1"
      ><span class="text-sm text-soft">Title</span><input
        class={field}
        bind:value={model.order.title}
        required
      /></label
    >
    <ol class="flex flex-col gap-2">
      {#each model.order.steps as step, k (k)}
        <li class="rounded-md border border-rule p-2">
          <div class="flex items-center gap-2">
            <b class="w-6 text-right">{k + 1}</b>
            <input class="{field} flex-1 font-semibold" aria-label="Step {k + 1}" bind:value={step.title} />
            <Choice
              compact
              label="Depth of step {k + 1}"
              value={step.depth}
              items={model.words.depths.map((value) => ({ value, label: value.replace("-", " ") }))}
              onchange={(depth) => (step.depth = depth)}
            />
            <Choice
              compact
              label="Bur of step {k + 1}"
              value={step.bur}
              items={model.words.burs.map((value) => ({ value, label: value.replace("-", ", ") }))}
              onchange={(bur) => (step.bur = bur)}
            />
            <Button size="slim" aria-label="Step {k + 1} earlier" onclick={() => move(k, -1)}>▴</Button>
            <Button size="slim" aria-label="Step {k + 1} later" onclick={() => move(k, 1)}>▾</Button>
            <Button size="slim" onclick={() => model.order?.steps.splice(k, 1)}>Take out</Button>
          </div>
          <div class="grid grid-cols-3 gap-2 pt-2 pl-8">
            <input
              class={field}
              aria-label="View of step {k + 1}"
              placeholder="view"
              bind:value={step.view}
            />
            <input
              class={field}
              aria-label="Check of step {k + 1}"
              placeholder="check"
              bind:value={step.check}
            />
            <input
              class={field}
              aria-label="Caution of step {k + 1}"
              placeholder="caution"
              bind:value={step.caution}
            />
          </div>
        </li>
      {/each}
    </ol>
    <div class="flex gap-3">
      <Button
        onclick={() =>
          model.order?.steps.push({
            title: "",
            depth: "none",
            bur: "none",
            view: "",
            check: "",
            caution: "",
          })}>Add a step</Button
      >
      <Button type="submit" tone="main">Keep</Button>
      <Button onclick={() => (model.order = null)}>Give up</Button>
    </div>
  </form>
{:else}
  <ul class="flex flex-col gap-3">
    {#each model.sequences as sequence (sequence.id)}
      <li class="rounded-md border border-rule bg-card px-4 py-3">
        <div class="flex items-center gap-3">
          <div class="flex-1">
            <b class="text-lg">{sequence.title}</b>
            <span class="text-soft"
              >{kindsOf(sequence)}, {sequence.teeth} teeth{sequence.own
                ? `, own, version ${sequence.version}`
                : ""}</span
            >
            <p class="text-soft">{sequence.reason}</p>
          </div>
          <Button onclick={() => model.editOrder(sequence)}>{sequence.own ? "Edit" : "Copy and edit"}</Button>
        </div>
        <p>{sequence.steps.map((s, k) => `${k + 1} ${s.title}`).join(" · ")}</p>
      </li>
    {/each}
  </ul>
{/if}
