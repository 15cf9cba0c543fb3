<script lang="ts">
  import type { PlanDocument } from "../../../api/client";
  import { figuresTold } from "../document";

  /** What would hold the casting: each groove and hole as it is read on the target, and the tooth left beside. */
  let { plan, show }: { plan: PlanDocument; show: (at: number[]) => void } = $props();
  const titles: Record<string, string> = { groove: "groove", "pin-hole": "pin hole" };
  const rows = $derived(
    (plan.channels ?? []).map((one) => ({
      at: one.way_out ?? one.at,
      title: `${titles[one.kind] ?? one.kind}, ${one.side}`,
      figures: figuresTold([
        ["deep", one.depth_mm],
        ["long", one.kind === "groove" ? one.length_mm : null],
        ["its end over the line", one.above_line_mm],
        ["tooth round it, at the least", one.cover_mm],
        ["ledge round it", one.ledge_mm],
      ]),
    })),
  );
</script>

<section class="border-b border-rule px-4 py-3">
  <h2 class="text-lg font-semibold">What would hold it</h2>
  {#each rows as row, k (k)}
    <button class="mt-1 block min-h-11 w-full cursor-pointer text-left" onclick={() => show(row.at)}>
      <span class="block font-semibold">{row.title}</span>
      <span class="grid grid-cols-[1fr_auto] gap-x-3">
        {#each row.figures as { what, mm } (what)}
          <span>{what}</span>
          <span class="text-right font-semibold">{mm.toFixed(2)} mm</span>
        {/each}
      </span>
    </button>
  {/each}
  {#if plan.budget}
    <p class="mt-1">
      At the ledge the tooth is {plan.budget.thickness_mm.toFixed(1)} mm thick;
      <b>{plan.budget.left_mm.toFixed(1)} mm</b> would stay in front of it.
    </p>
  {/if}
</section>
