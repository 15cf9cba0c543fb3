<script lang="ts">
  import { fromTo, stateWord, summary } from "../changes";
  import type { Examine } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  const rows = $derived(model.changes?.rows.filter((r) => r.state !== "changed") ?? []);
  const tone = { new: "text-over", worse: "text-over", still: "text-short", better: "text-unsure" } as Record<
    string,
    string
  >;
</script>

{#if model.changes && model.changes.since !== null}
  <details class="border-b border-rule bg-paper px-4 py-2">
    <summary class="min-h-11 cursor-pointer py-2 text-base">
      <b>Since attempt {model.changes.since}:</b>
      {summary(model.changes.rows)}
    </summary>
    <ul class="flex flex-col pb-2" aria-label="What the last pass changed">
      {#each rows as row (row.criterion + row.zone + row.bound + row.state)}
        <li class="border-t border-rule">
          <button
            type="button"
            class="flex min-h-11 w-full items-baseline gap-3 py-1 text-left"
            onclick={() => model.show(row.at ?? null, row.zone)}
          >
            <span class="min-w-0 flex-1">
              <span class="block font-semibold first-letter:uppercase"
                >{row.where === "overall" ? row.title : row.where}</span
              >
              <span class="block text-sm text-soft"
                >{row.title}:
                <b class={tone[row.state] ?? "text-pine"}>{stateWord(row.state)}</b></span
              >
            </span>
            <span class="text-base whitespace-nowrap tabular-nums">{fromTo(row)}</span>
          </button>
        </li>
      {/each}
    </ul>
  </details>
{/if}
