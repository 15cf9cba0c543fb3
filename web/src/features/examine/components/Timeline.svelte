<script lang="ts">
  import { api, type Change, type Timeline, sentenceOf } from "../../../api/client";
  import Choice from "../../../ui/Choice.svelte";
  import { serves } from "../../vocabulary.svelte";
  import { FAULT_TONE, fromTo, stateWord } from "../changes";
  import type { Examine } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  let times = $state<Timeline | null>(null);
  let other = $state("");
  let rows = $state<Change[] | null>(null);
  let said = $state("");
  let busy = $state(false);
  const others = $derived(
    model.standards.filter(
      (s) =>
        model.site && s.id !== model.site.standard_id && serves(s, model.site.tooth, model.site.restoration),
    ),
  );

  async function load() {
    if (model.site && !times) times = await api.timeline(model.site.id).catch(() => null);
  }
  async function ask(id: string) {
    [other, rows, said, busy] = [id, null, "", true];
    try {
      rows = await api.whatIf(model.readingId, id);
    } catch (error) {
      said = sentenceOf(error);
    } finally {
      busy = false;
    }
  }
  $effect(() => {
    void model.result;
    times = null;
  });
</script>

{#if (model.site?.readings.length ?? 0) > 1}
  <details class="border-b border-rule px-4 py-2" ontoggle={load}>
    <summary class="min-h-11 cursor-pointer py-2 text-base">Numbers over the attempts</summary>
    {#if times}
      <table class="w-full text-sm" aria-label="Numbers over the attempts">
        <thead>
          <tr class="text-left text-soft"
            ><th class="font-normal">worst place</th>{#each times.attempts as number (number)}<th
                class="pl-2 text-right font-normal">{number}</th
              >{/each}<th class="pl-2 text-right font-normal">limit</th></tr
          >
        </thead>
        <tbody>
          {#each times.rows as row (row.criterion + row.bound)}
            <tr class="border-t border-rule">
              <th class="py-1 text-left font-normal first-letter:uppercase">{row.title}</th>
              {#each row.values as value, k (k)}
                <td
                  class="pl-2 text-right tabular-nums {FAULT_TONE[row.status[k]!] ?? ''}"
                  title={row.where[k]}>{value === null ? "–" : value.toFixed(row.unit === "deg" ? 0 : 2)}</td
                >
              {/each}
              <td class="pl-2 text-right text-soft tabular-nums"
                >{row.bound === "min" ? "≥" : "≤"} {row.limit?.toFixed(row.unit === "deg" ? 0 : 2)}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
  </details>
{/if}
<details class="border-b border-rule px-4 py-2">
  <summary class="min-h-11 cursor-pointer py-2 text-base">What would another standard say?</summary>
  <Choice
    label="Try, without changing the case"
    value={other}
    items={others.map((s) => ({ value: s.id, label: s.title, hint: s.reason }))}
    onchange={ask}
  />
  {#if busy}<p class="pt-2 text-soft" role="status">Judging …</p>{/if}
  {#if said}<p class="pt-2 text-short" role="alert">{said}</p>{/if}
  {#if rows}
    <ul class="pt-2" aria-label="What another standard would say">
      {#each rows.filter( (r) => ["new", "mended", "worse", "better"].includes(r.state) ) as row (row.criterion + row.zone + row.bound)}
        <li class="flex items-baseline gap-2 border-t border-rule py-1">
          <span class="min-w-0 flex-1"
            ><b class="first-letter:uppercase">{row.where === "overall" ? row.title : row.where}</b>
            <span class="block text-sm text-soft"
              >{row.title}: {row.state === "mended"
                ? "would be no fault"
                : row.state === "new"
                  ? "would be a fault"
                  : stateWord(row.state)}</span
            ></span
          >
          <span class="text-sm whitespace-nowrap">{fromTo(row)}</span>
        </li>
      {:else}
        <li class="text-soft">Nothing would be judged otherwise.</li>
      {/each}
    </ul>
  {/if}
</details>
