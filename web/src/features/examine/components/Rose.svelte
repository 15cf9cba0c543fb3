<script lang="ts">
  import { vec } from "../../../sheet/vectors";
  import { pathOf, rosePath, rosePoint, roseRadius, tiltOf, wallArc, type Tilt } from "../form";
  import type { Examine } from "../state.svelte";
  import Needle from "./Needle.svelte";

  let { model }: { model: Examine } = $props();
  const shape = $derived(model.document?.convergence ?? null);
  /** A cavity's walls, that lean outward: one arc a wall. */
  const cavity = $derived(model.document?.cavity ?? null);
  /** A child's tooth keeps its bulge: nothing is told across it, and no wall is wanted to lean. */
  const bulging = $derived(model.document?.child != null);
  const sums = $derived(shape ?? cavity?.divergence ?? null);
  const across = $derived(bulging ? null : sums);
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
  /** Half of the wanted convergence for each of two walls. */
  const wanted = $derived.by(() => {
    const walls = model.standard?.bounds.divergence;
    if (bulging) return null;
    if (cavity) return walls?.min != null && walls.max != null ? { low: walls.min, high: walls.max } : null;
    const bounds = model.standard?.bounds.convergence;
    return bounds?.min != null && bounds.max != null ? { low: bounds.min / 2, high: bounds.max / 2 } : null;
  });
  const place = (azimuth: number, radius: number) => rosePoint(azimuth, radius, model.mesialRight);
  /** The path as a needle: where it leans from the tooth's own axis. Dragging it tries other paths. */
  const now = $derived(
    model.document && model.frame ? tiltOf(vec(model.document.path.direction), model.frame) : null,
  );
  let tried = $state<Tilt | null>(null);
  const tilt = $derived(tried ?? now);
  const right = $derived(model.mesialRight ? 1 : -1);

  function dragged(to: Tilt, phase: "first" | "move" | "last") {
    if (!model.frame) return;
    if (phase === "first" && model.lens !== "draw") void model.setLens("draw");
    tried = to;
    if (phase === "move") void model.tryPath(pathOf(to, model.frame));
    if (phase === "last") void model.usePath(pathOf(to, model.frame)).then(() => (tried = null));
  }
  function nudged(to: Tilt) {
    if (model.frame && !model.judging) void model.usePath(pathOf(to, model.frame));
  }

  const tell = (value: number | null | undefined) =>
    value == null ? (cavity ? "open" : "not seen") : `${value.toFixed(0)}°`;
</script>

{#if sums}
  <div class="flex flex-wrap items-center gap-4">
    <svg
      viewBox="-128 -118 256 236"
      class="w-56 shrink-0"
      role="group"
      aria-label="{cavity ? 'Divergence of the walls' : 'Taper by azimuth'}{across
        ? `: faciolingual ${tell(across.faciolingual_deg)}, mesiodistal ${tell(across.mesiodistal_deg)}`
        : ''}"
    >
      {#if wanted}
        <circle r={roseRadius(wanted.high)} fill="var(--pine)" fill-opacity="0.16" />
        <circle r={roseRadius(wanted.low)} fill="var(--card)" />
      {/if}
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
      {#if shape}
        <path
          d={rosePath(shape.by_azimuth, model.mesialRight)}
          fill="none"
          stroke="var(--ink)"
          stroke-width="2.4"
        />
      {/if}
      {#each cavity?.walls ?? [] as wall (wall.part + wall.side)}
        <path
          d={wallArc(wall, model.mesialRight)}
          fill="none"
          stroke={wanted && (wall.divergence_deg < wanted.low || wall.divergence_deg > wanted.high)
            ? "var(--short)"
            : "var(--ink)"}
          stroke-width={wall.part === "occlusal" ? 5 : 2.5}
          stroke-dasharray={wall.part === "occlusal" ? "" : "5 3"}
        />
      {/each}
      {#each sides as [name, azimuth] (name)}
        {@const p = place(azimuth, 108)}
        <text x={p[0]} y={p[1] + 4} text-anchor="middle" font-size="12" fill="var(--ink)">{name}</text>
      {/each}
      {#if tilt}
        <Needle
          {tilt}
          {right}
          {dragged}
          {nudged}
          label="Path of insertion: drag, or arrow keys, to tilt it"
        />
      {/if}
    </svg>
    {#if across}
      <dl class="text-base">
        <dt class="text-sm text-soft">faciolingual</dt>
        <dd class="text-2xl font-bold">{tell(across.faciolingual_deg)}</dd>
        <dt class="pt-2 text-sm text-soft">mesiodistal</dt>
        <dd class="text-2xl font-bold">{tell(across.mesiodistal_deg)}</dd>
      </dl>
    {/if}
  </div>
  {#if model.tried}
    <p class="text-base" aria-live="polite">
      Along this path: {model.tried.max_depth_mm > 0
        ? `undercut ${model.tried.max_depth_mm.toFixed(2)} mm, ${model.tried.sectors.join(", ")}`
        : "no undercut"}{model.tried.least_draft_deg === null
        ? ""
        : `; least draft ${model.tried.least_draft_deg.toFixed(1)}°`}{model.judging
        ? ". Judging the rest …"
        : "."}
    </p>
  {/if}
  <p class="text-sm text-soft">
    Drag the ring in the middle to tilt the path. {bulging
      ? "The tooth keeps its bulge: no convergence is told across it."
      : `Shaded: what a wall is wanted to lean${wanted ? `, ${wanted.low}° to ${wanted.high}°` : ""}.`} Inside the
    strong ring a wall {cavity ? "hangs over" : "leans back"}.
    {#if cavity}Thick: the walls between the cusps; broken: those of a box.{/if}
  </p>
{:else}
  <p class="text-soft">Not measured yet.</p>
{/if}
