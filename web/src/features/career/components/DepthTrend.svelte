<script lang="ts">
  import type { Career } from "../../../api/client";

  /** Each first attempt's depths against their targets: the median, and between which two half of them lie. */
  let { rows }: { rows: Career["depths"] } = $props();
  const [WIDE, HIGH, LEFT, FOOT] = [900, 200, 60, 34];
  const reach = $derived(
    1.08 * Math.max(0.4, ...rows.map((row) => Math.max(Math.abs(row.low_mm), Math.abs(row.high_mm)))),
  );
  const x = (k: number) => LEFT + ((k + 0.5) * (WIDE - LEFT)) / Math.max(rows.length, 1);
  const y = (mm: number) => ((HIGH - FOOT) / 2) * (1 - mm / reach);
  const ticks = $derived([-1, -0.5, 0, 0.5, 1].filter((mm) => Math.abs(mm) <= reach));
  const every = $derived(Math.ceil(rows.length / 12));
  const signed = (mm: number) => (mm === 0 ? "target" : `${mm > 0 ? "+" : "−"}${Math.abs(mm).toFixed(1)}`);
</script>

{#if rows.length === 0}
  <p class="text-base">No depths were measured: they need a scan from before cutting.</p>
{:else}
  <svg
    viewBox="0 0 {WIDE} {HIGH}"
    class="w-full"
    role="img"
    aria-label="Depths of {rows.length} first attempts"
  >
    {#each ticks as mm (mm)}
      <line
        x1={LEFT}
        x2={WIDE}
        y1={y(mm)}
        y2={y(mm)}
        stroke="var(--soft)"
        stroke-width={mm === 0 ? 1.6 : 0.5}
      />
      <text x={LEFT - 6} y={y(mm) + 5} text-anchor="end" font-size="14" fill="var(--ink)">{signed(mm)}</text>
    {/each}
    {#each rows as row, k (row.code + row.tooth)}
      <line
        x1={x(k)}
        x2={x(k)}
        y1={y(row.low_mm)}
        y2={y(row.high_mm)}
        stroke="var(--ink)"
        stroke-width="5"
        opacity="0.35"
      />
      <circle cx={x(k)} cy={y(row.median_mm)} r="6" fill={row.median_mm < 0 ? "var(--short)" : "var(--pine)"}>
        <title>{row.code}, tooth {row.tooth}: median {row.median_mm.toFixed(2)} mm</title>
      </circle>
      {#if k % every === 0}
        <text x={x(k)} y={HIGH - 12} text-anchor="middle" font-size="13" fill="var(--ink)">{row.tooth}</text>
      {/if}
    {/each}
  </svg>
  <p class="text-sm text-soft">
    Dot: the median of a tooth's places; bar: half of them lie within it. Over the line deeper than the
    target, under it less deep.
  </p>
{/if}
