<script lang="ts">
  import Button from "../../../ui/Button.svelte";
  import { rowsOf, slip, tight, type Library } from "../state.svelte";

  let { model }: { model: Library } = $props();
  const field = "min-h-10 rounded-md border border-rule bg-card px-2 text-base";
  const wrong = $derived(model.edited ? rowsOf(model.edited).some((r) => slip(r.limits)) : true);
</script>

{#if model.edited}
  <form class="flex flex-col gap-3" onsubmit={(e) => (e.preventDefault(), void model.save())}>
    <label class="flex flex-col gap-1"
      ><span class="text-sm text-soft">Title</span><input
        class={field}
        bind:value={model.edited.title}
        required
      /></label
    >
    <label class="flex flex-col gap-1"
      ><span class="text-sm text-soft">The reason, in a sentence</span><input
        class={field}
        bind:value={model.edited.reason}
        required
      /></label
    >
    <table class="w-full border-collapse">
      <thead>
        <tr class="text-left text-sm text-soft"
          ><th class="font-normal">place</th><th class="font-normal">minimum, mm</th><th class="font-normal"
            >target</th
          ><th class="font-normal">maximum</th><th class="font-normal">source</th></tr
        >
      </thead>
      <tbody>
        {#each rowsOf(model.edited) as row (row.table + row.key)}
          {@const limits = model.edited[row.table][row.key]!}
          {@const said = slip(limits)}
          <tr class="align-top">
            <th class="pt-2 pr-2 text-left font-normal"
              >{row.title}{#if said}<span class="block text-sm text-short" role="alert">{said}</span
                >{:else if tight(limits)}<span class="block text-sm text-soft"
                  >target and minimum are nearer than a hand can hold</span
                >{/if}</th
            >
            {#each ["min", "target", "max"] as const as which (which)}
              <td class="py-1 pr-2"
                ><input
                  class="{field} w-24"
                  type="number"
                  step="0.05"
                  aria-label="{row.title}, {which}"
                  bind:value={limits[which]}
                /></td
              >
            {/each}
            <td class="py-1"
              ><input
                class="{field} w-full"
                aria-label="{row.title}, source"
                bind:value={limits.source}
              /></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    {#if model.tried}
      {@const tried = model.tried}
      <section class="rounded-md border border-rule p-3" aria-label="What it would change">
        {#if tried.count === 0}
          <p class="text-soft">No measured case is judged by this standard: nothing would change.</p>
        {:else}
          <p class="pb-2 text-soft">
            Measured teeth judged by it: {tried.count}{tried.rows.length < tried.count
              ? `; the newest ${tried.rows.length}`
              : ""}. They keep the version they were judged by until you choose the new one there.
          </p>
          <ul class="flex flex-col gap-2">
            {#each tried.rows as row (row.case_id + row.tooth)}
              <li>
                <b>{row.case_code} · {row.tooth}</b>, attempt {row.attempt}:
                {#if row.turned === 0}nothing changes{:else}{row.turned}
                  {row.turned === 1 ? "verdict turns" : "verdicts turn"}.
                  <span class="block text-soft">now: {row.now}</span>
                  <span class="block">then: {row.then}</span>{/if}
              </li>
            {/each}
          </ul>
        {/if}
      </section>
    {/if}
    <div class="flex gap-3">
      <Button type="submit" tone="main" disabled={wrong}
        >{model.edited.version === 0
          ? "Keep as our own"
          : `Keep as version ${model.edited.version + 1}`}</Button
      >
      <Button disabled={wrong || model.trying} onclick={() => void model.tryIt()}
        >{model.trying ? "Judging …" : "What would change?"}</Button
      >
      <Button onclick={() => (model.edited = null)}>Give up</Button>
    </div>
  </form>
{/if}
