<script lang="ts">
  import { rosePath, rosePoint, roseRadius, WANTED_TAPER } from "../form";
  import type { Examine } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  const shape = $derived(model.document?.convergence ?? null);
  const rings = [0, 10, 20];
  const lingual = $derived(model.site?.lingual_word ?? "lingual");
  const sides = $derived([
    ["facial", 0],
    ["mesial", 90],
    [lingual, 180],
    ["distal", 270],
  ] as [string, number][]);
  const at = (azimuth: number) => shape?.by_azimuth.find((r) => r.azimuth_deg === azimuth)?.taper_deg ?? null;
  const pairs = [
    [0, 180],
    [90, 270],
  ] as [number, number][];
  const place = (azimuth: number, radius: number) => rosePoint(azimuth, radius, model.mesialRight);
  const tell = (value: number | null | undefined) => (value == null ? "not seen" : `${value.toFixed(0)}°`);
</script>

{#if shape}
  <div class="flex flex-wrap items-center gap-4">
    <svg
      viewBox="-128 -118 256 236"
      class="w-56 shrink-0"
      role="img"
      aria-label="Taper by azimuth: faciolingual {tell(shape.faciolingual_deg)}, mesiodistal {tell(
        shape.mesiodistal_deg,
      )}"
    >
      <circle r={roseRadius(WANTED_TAPER.high)} fill="var(--pine)" fill-opacity="0.16" />
      <circle r={roseRadius(WANTED_TAPER.low)} fill="var(--card)" />
      {#each rings as ring (ring)}
        <circle
          r={roseRadius(ring)}
          fill="none"
          stroke="var(--soft)"
          stroke-width={ring === 0 ? 1.6 : 0.6}
          stroke-dasharray={ring === 0 ? "" : "3 3"}
        />
        <text x={roseRadius(ring) * 0.71 + 2} y={-roseRadius(ring) * 0.71} font-size="11" fill="var(--soft)"
          >{ring}°</text
        >
      {/each}
      {#each pairs as [a, b] (a)}
        {@const ta = at(a)}
        {@const tb = at(b)}
        {#if ta !== null && tb !== null}
          {@const p = place(a, roseRadius(ta))}
          {@const q = place(b, roseRadius(tb))}
          <line x1={p[0]} y1={p[1]} x2={q[0]} y2={q[1]} stroke="var(--ink)" stroke-width="0.8" />
        {/if}
      {/each}
      <path
        d={rosePath(shape.by_azimuth, model.mesialRight)}
        fill="none"
        stroke="var(--ink)"
        stroke-width="2.4"
      />
      {#each sides as [name, azimuth] (name)}
        {@const p = place(azimuth, 108)}
        <text x={p[0]} y={p[1] + 4} text-anchor="middle" font-size="12" fill="var(--ink)">{name}</text>
      {/each}
    </svg>
    <dl class="text-base">
      <dt class="text-sm text-soft">faciolingual</dt>
      <dd class="text-2xl font-bold">{tell(shape.faciolingual_deg)}</dd>
      <dt class="pt-2 text-sm text-soft">mesiodistal</dt>
      <dd class="text-2xl font-bold">{tell(shape.mesiodistal_deg)}</dd>
    </dl>
  </div>
  <p class="text-sm text-soft">
    Shaded: 2° to 10° a wall, 4° to 20° in all. Inside the strong ring a wall leans back.
  </p>
{:else}
  <p class="text-soft">Not measured yet.</p>
{/if}
