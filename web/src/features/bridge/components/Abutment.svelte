<script lang="ts">
  import type { Measured } from "../../../api/client";
  import { dot, vec, type Vec } from "../../../sheet/vectors";
  import { mesialIsRight, type Frame } from "../../../sheet/views";
  import { pathOf, rosePath, rosePoint, roseRadius, tiltOf, type Lean, type Tilt } from "../../examine/form";
  import Needle from "../../examine/components/Needle.svelte";
  import { frameOf } from "../../examine/frame";
  import { apart, bySide, SIDES } from "../draft";

  /** One abutment's walls about the common path, which is one needle: dragged on any tooth, it moves on all. */
  let {
    abutment,
    rows,
    path,
    lingual,
    tilted,
  }: {
    abutment: Measured;
    rows: Lean[];
    path: Vec;
    lingual: string;
    tilted: (path: Vec) => void;
  } = $props();

  const DEGREE = 3; // drawing units, as the needle's
  const LEANS = -0.5; // less lies within what is known of a wall
  const frame = $derived<Frame>(frameOf(abutment));
  const mesialRight = $derived(mesialIsRight(frame));
  const right = $derived(mesialRight ? 1 : -1);
  const tilt = $derived<Tilt>(tiltOf(path, frame));
  const own = $derived<Tilt>(tiltOf(vec(abutment.path.direction), frame));
  const sides = $derived(bySide(rows));
  const off = $derived(apart(path, vec(abutment.path.direction)));
  const upright = $derived(dot(path, frame.occlusal) > 0.5);
  const named = (side: string) => (side === "lingual" ? lingual : side);
</script>

<section
  class="grid grid-cols-[minmax(11rem,15rem)_minmax(9rem,1fr)] items-center gap-x-3 border border-rule bg-card p-3"
  aria-label="Tooth {abutment.tooth}"
>
  <svg
    viewBox="-128 -118 256 236"
    class="w-full"
    role="group"
    aria-label="Walls of {abutment.tooth} about the common path"
  >
    {#each [0, 10, 20] as ring (ring)}
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
    <path d={rosePath(rows, mesialRight)} fill="none" stroke="var(--ink)" stroke-width="2.4" />
    {#each SIDES as side, k (side)}
      {@const p = rosePoint(90 * k, 108, mesialRight)}
      {@const value = sides[side]}
      <text
        x={p[0]}
        y={p[1] + 4}
        text-anchor="middle"
        font-size="12"
        font-weight={value !== null && value < LEANS ? "bold" : "normal"}
        fill={value !== null && value < LEANS ? "var(--short)" : "var(--ink)"}>{named(side)}</text
      >
    {/each}
    <circle cx={own.mesial * DEGREE * right} cy={-own.facial * DEGREE} r="4" fill="var(--soft)" />
    {#if upright}
      <Needle
        {tilt}
        {right}
        dragged={(to) => tilted(pathOf(to, frame))}
        nudged={(to) => tilted(pathOf(to, frame))}
        label="Common path on {abutment.tooth}: drag, or arrow keys, to tilt it"
      />
    {/if}
  </svg>
  <div>
    <h2 class="text-2xl font-bold">{abutment.tooth}</h2>
    <p class="pb-1 text-sm">
      The path leans <b>{off.toFixed(1)}°</b> from this tooth's own.
    </p>
    <table class="w-full text-base" aria-label="Least draft of each wall of {abutment.tooth}">
      <tbody>
        {#each SIDES as side (side)}
          {@const value = sides[side]}
          <tr
            class="border-t border-rule {value !== null && value < LEANS ? 'font-semibold text-short' : ''}"
          >
            <th class="py-1 text-left font-normal">{named(side)}</th>
            <td class="text-right tabular-nums"
              >{value === null
                ? "not seen"
                : value < LEANS
                  ? `leans back ${(-value).toFixed(1)}°`
                  : `${value.toFixed(1)}°`}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
</section>
