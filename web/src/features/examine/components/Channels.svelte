<script lang="ts">
  import type { Channel } from "../../../api/client";
  import type { Examine } from "../state.svelte";

  /** What holds a casting: every groove, hole and pin with its figures; a hole's depth is entered from a gauge. */
  let { model }: { model: Examine } = $props();
  const channels = $derived(model.document?.channels ?? []);
  const budget = $derived(model.document?.budget ?? null);
  const pinned = $derived(model.site?.restoration === "pin-casting");
  const titles: Record<Channel["kind"], string> = {
    groove: "groove",
    "pin-hole": "pin hole",
    "guide-pin": "guide pin",
  };
  const plain = (value: number | null, digits = 2) => (value === null ? "–" : value.toFixed(digits));
  const side = (one: Channel) => one.side.replace("lingual", model.site?.lingual_word ?? "lingual");
  const least = (one: Channel) => (one.depth_is_least && one.depth_mm !== null ? "≥ " : "");

  /** A gauge's depth, kept with the tooth; an empty field takes it back. */
  function gauge(one: Channel, text: string) {
    const kept = { ...(model.site?.gauge ?? {}) };
    if (text.trim() === "") delete kept[one.side];
    else kept[one.side] = Number(text.replace(",", ".")); // what is no depth is refused in words
    void model.terms.setFacts({ gauge: kept });
  }
</script>

{#if channels.length || pinned}
  <details class="border-b border-rule px-4 py-2" open>
    <summary class="min-h-11 cursor-pointer py-2 text-base">Grooves and pins</summary>
    {#if channels.length}
      <table class="w-full text-sm" aria-label="Grooves and pins">
        <thead>
          <tr class="text-left text-soft">
            <th class="font-normal">in mm</th>
            <th class="pl-2 text-right font-normal">deep</th>
            <th class="pl-2 text-right font-normal">long</th>
            <th class="pl-2 text-right font-normal">wide</th>
            <th class="pl-2 text-right font-normal">off the path</th>
            {#if pinned}<th class="pl-2 text-right font-normal">tooth round it</th>{/if}
          </tr>
        </thead>
        <tbody>
          {#each channels as one, k (k)}
            <tr class="border-t border-rule">
              <th class="py-1.5 text-left font-normal">
                <button
                  class="min-h-8 text-left underline-offset-2 hover:underline"
                  onclick={() => model.show(one.at, "")}
                >
                  {titles[one.kind]}, {side(one)}
                </button>
              </th>
              <td class="pl-2 text-right tabular-nums">{least(one)}{plain(one.depth_mm)}</td>
              <td class="pl-2 text-right tabular-nums">{plain(one.length_mm)}</td>
              <td class="pl-2 text-right tabular-nums">{plain(one.diameter_mm)}</td>
              <td class="pl-2 text-right tabular-nums">{plain(one.to_path_deg, 1)}°</td>
              {#if pinned}<td class="pl-2 text-right tabular-nums">{plain(one.cover_mm)}</td>{/if}
            </tr>
          {/each}
        </tbody>
      </table>
    {:else}
      <p class="py-1.5 text-sm">No hole is seen on the cut.</p>
    {/if}
    {#if pinned}
      {#each channels as one, k (k)}
        {#if one.kind !== "groove"}
          <label class="flex min-h-11 items-center gap-2 text-sm">
            gauge in the {side(one)} hole, mm
            <input
              class="h-9 w-20 border border-rule bg-surface px-2 text-base tabular-nums"
              inputmode="decimal"
              value={model.site?.gauge[one.side] ?? ""}
              disabled={model.judging || model.busy}
              onchange={(e) => gauge(one, e.currentTarget.value)}
            />
          </label>
        {/if}
      {/each}
      <label class="flex min-h-11 items-center gap-2 text-base">
        <input
          type="checkbox"
          class="size-5"
          checked={model.site?.guide_pins ?? false}
          disabled={model.judging || model.busy}
          onchange={(e) => void model.terms.setFacts({ guide_pins: e.currentTarget.checked })}
        />
        guide pins stand in the holes
      </label>
      {#if budget}
        <p class="py-1.5 text-sm">
          At the ledge the tooth was <b>{budget.thickness_mm.toFixed(1)} mm</b> thick;
          <b>{budget.left_mm.toFixed(1)} mm</b> are left over it.
        </p>
      {/if}
      <p class="pb-1 text-sm text-soft">
        A scan does not show the bottom of a hole for certain: its depth is the least it can be until a gauge
        says it.
      </p>
    {/if}
  </details>
{/if}
