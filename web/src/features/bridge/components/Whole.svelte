<script lang="ts">
  import type { BridgeDocument } from "../../../api/client";

  /** What holds for the whole: strokes where no path serves, pontics, connectors, span, the opposing teeth. */
  let { bridge }: { bridge: BridgeDocument } = $props();
  const plain = (value: number | null, digits = 1) => (value === null ? "–" : value.toFixed(digits));
  const status = (criterion: string, zone: string) =>
    bridge.verdicts.find((v) => v.criterion === criterion && v.zone === zone);
  const limit = (criterion: string, zone: string) => {
    const row = status(criterion, zone);
    return row?.limit == null
      ? ""
      : `, ${row.limit.toFixed(1)} ${row.bound === "min" ? "at least" : "at most"}`;
  };
  const doubt = (criterion: string, zone: string) => {
    const row = status(criterion, zone);
    return row?.U ? ` ± ${row.U.toFixed(1)}` : "";
  };
  const bad = (criterion: string, zone: string) =>
    ["short", "over"].includes(status(criterion, zone)?.status ?? "");
</script>

{#if bridge.corrections.length}
  <section class="border-b border-l-4 border-rule border-l-short px-4 py-3">
    <h2 class="font-semibold">What opens a path</h2>
    <ol class="list-decimal pl-5">
      {#each bridge.corrections as row (row.key)}
        <li class="py-1">
          {row.do[0]?.toUpperCase()}{row.do.slice(1)}.
          <span class="block text-sm text-soft">{row.bur}; {row.hold}. {row.beware}.</span>
        </li>
      {/each}
    </ol>
  </section>
{/if}
{#each bridge.abutments as abutment (abutment.tooth)}
  {#if abutment.corrections.length}
    <section class="border-b border-rule px-4 py-3" aria-label="Strokes on {abutment.tooth}">
      <h2 class="font-semibold">On {abutment.tooth}</h2>
      <ol class="list-decimal pl-5">
        {#each abutment.corrections as row (row.key)}
          <li class="py-0.5">
            {row.where}: {row.do}
            {#if row.refused}<span class="block text-sm text-soft">{row.refused}</span>{/if}
          </li>
        {/each}
      </ol>
    </section>
  {/if}
{/each}
<section class="border-b border-rule px-4 py-3">
  <h2 class="font-semibold">Between them</h2>
  <ul>
    {#each bridge.pontics as p (p.tooth)}
      <li class="py-1">
        <b>{p.tooth}</b>: {plain(p.width_mm)} mm wide,
        <span class={bad("pontic-height", p.tooth) ? "font-semibold text-short" : ""}
          >{plain(p.height_mm)} mm high{limit("pontic-height", p.tooth)}</span
        >{p.ridge_gap_mm === null
          ? ""
          : `; the ridge lies ${plain(Math.abs(p.ridge_gap_mm))} mm ${p.ridge_gap_mm < 0 ? "over" : "under"} the line between them`}
      </li>
    {/each}
    {#each bridge.connectors as c (c.between.join("-"))}
      {@const zone = c.between.join("-")}
      <li class="py-1">
        Connector <b>{c.between.join(" to ")}</b>:
        <span class={bad("connector", zone) ? "font-semibold text-short" : ""}
          >{plain(c.area_mm2)} mm²{limit("connector", zone)}</span
        >, {plain(c.height_mm)} high, {plain(c.width_mm)} wide
      </li>
    {/each}
  </ul>
  <p class="pt-1">
    Span {plain(bridge.span.length_mm, 0)} mm{#if bridge.span.flex_against_one_pontic > 1.5}; it bends
      <b class={bad("span-flex", "overall") ? "text-short" : ""}
        >{plain(bridge.span.flex_against_one_pontic, 0)} times</b
      >
      as much as over one pontic{/if}.
  </p>
</section>
{#if bridge.opposing?.over_erupted.length}
  <section class="border-b border-rule px-4 py-3">
    <h2 class="font-semibold">Opposing teeth</h2>
    {#each bridge.opposing.over_erupted as row (row.tooth)}
      <p class={bad("over-eruption", row.tooth) ? "font-semibold text-short" : ""}>
        Over {row.tooth}: {row.beyond_plane_mm.toFixed(1)}{doubt("over-eruption", row.tooth)} mm beyond the teeth
        beside it{limit("over-eruption", row.tooth)}.
      </p>
    {/each}
  </section>
{/if}
{#each bridge.warnings as words (words)}
  <p class="border-b border-rule px-4 py-3 text-sm">{words}</p>
{/each}
