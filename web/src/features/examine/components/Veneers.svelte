<script lang="ts">
  import { api, type Veneers, sentenceOf } from "../../../api/client";
  import Button from "../../../ui/Button.svelte";
  import { FAULT_TONE } from "../changes";
  import type { Examine } from "../state.svelte";
  import { edgesDrawn, THIRDS, unlikeWords } from "../unlike";

  /** The veneers of the case seen together: thickness along the row, edges along the arch, left against right. */
  let { model }: { model: Examine } = $props();
  let row = $state<Veneers | null>(null);
  let said = $state("");
  const HIGH_MM = 14; // of the drawing's lengths to a millimetre
  const WIDE = 64;
  const others = $derived(model.case?.sites.filter((s) => s.restoration === "veneer") ?? []);
  const shown = $derived(others.length > 1 && model.site?.restoration === "veneer");
  const edges = $derived(row ? edgesDrawn(row, HIGH_MM) : []);
  const deepest = $derived(Math.max(0, ...edges.flatMap((e) => [e.before ?? 0, e.cut ?? 0])));
  const proven = $derived(row?.unlike.filter((u) => u.proven) ?? []);
  const mm = (value: number | null | undefined) => (value == null ? "–" : value.toFixed(2));

  async function load(reading: string) {
    try {
      row = await api.veneers(reading);
      said = "";
    } catch (error) {
      row = null;
      said = sentenceOf(error);
    }
  }
  $effect(() => {
    void model.result;
    if (shown) void load(model.readingId);
  });
  const third = (tooth: Veneers["teeth"][number], name: string) =>
    tooth.thirds.find((t) => t.zone === `facial/${name}`);
</script>

{#if shown}
  <details class="border-b border-rule px-4 py-2" open>
    <summary class="min-h-11 cursor-pointer py-2 text-base">Veneers side by side</summary>
    {#if row}
      <table class="w-full table-fixed text-sm" aria-label="Veneers side by side">
        <thead>
          <tr>
            <th class="w-20 text-left font-normal text-soft">mm</th>
            {#each row.teeth as tooth (tooth.tooth)}
              {@const site = others.find((s) => s.tooth === tooth.tooth)}
              <th class="pb-1 font-normal"
                ><Button
                  pressed={tooth.tooth === model.site?.tooth}
                  onclick={() => site && void model.openTooth(site)}>{tooth.tooth}</Button
                ></th
              >
            {/each}
          </tr>
        </thead>
        <tbody>
          <tr class="border-t border-rule align-top">
            <th class="py-1 text-left font-normal">Edge</th>
            {#each row.teeth as tooth, k (tooth.tooth)}
              {@const edge = edges[k]!}
              <td class="text-center">
                <svg viewBox="0 -4 {WIDE} {deepest + 8}" class="mx-auto w-16" aria-hidden="true">
                  {#if edge.cut !== null}
                    <rect
                      x="10"
                      width={WIDE - 20}
                      y={edge.planned}
                      height={Math.max(edge.cut - edge.planned, 0)}
                      class="fill-paper"
                    />
                    <path d="M6 {edge.cut}H{WIDE - 6}" class="stroke-ink" stroke-width="3" />
                  {/if}
                  {#if edge.before !== null}
                    <path d="M2 {edge.before}H{WIDE - 2}" class="stroke-soft" stroke-dasharray="4 3" />
                  {/if}
                  <path d="M6 {edge.planned}H{WIDE - 6}" class="stroke-pine" stroke-width="3" />
                </svg>
                <span class="tabular-nums">{mm(tooth.room_mm)}</span><br />
                <span class="text-soft">{mm(tooth.longer_mm)} longer</span>
              </td>
            {/each}
          </tr>
          {#each THIRDS as name (name)}
            <tr class="border-t border-rule">
              <th class="py-1.5 text-left font-normal first-letter:uppercase">{name}</th>
              {#each row.teeth as tooth (tooth.tooth)}
                {@const here = third(tooth, name)}
                <td class="text-center tabular-nums {FAULT_TONE[here?.status ?? ''] ?? ''}"
                  >{mm(here?.thickness_mm)}<br /><span class="font-normal text-soft"
                    >{mm(here?.removed_mm)} off</span
                  ></td
                >
              {/each}
            </tr>
          {/each}
        </tbody>
      </table>
      {#if row.unlike.length}
        <h3 class="pt-3 text-base font-semibold">Left against right</h3>
        {#if proven.length}
          <ul class="flex list-disc flex-col gap-1 py-1 pl-5 text-sm">
            {#each proven as one (one.what + (one.zone ?? "") + one.right)}
              <li>{unlikeWords(one)} (±{mm(one.u_mm)})</li>
            {/each}
          </ul>
        {/if}
        <p class="text-sm text-soft">
          {proven.length ? "The rest is alike" : "Alike"} within what can be measured.
        </p>
      {/if}
      <p class="pt-1 text-sm text-soft">
        Room for the veneer {row.to === "mockup" ? "to the mock-up" : "to the planned surface"}: in the middle
        of each third, and from the cut edge (lower line) to the planned one (upper); dashed is the edge
        before. How alike they are to be, you and the patient decide.
      </p>
      {#if row.missing.length}<p class="text-sm">Not measured yet: {row.missing.join(", ")}.</p>{/if}
    {:else if said}<p class="text-sm">{said}</p>{/if}
  </details>
{/if}
