<script lang="ts">
  import type { LineSample } from "../../../api/client";
  import { byAzimuth, doubtfulRuns, sideStops, stripPath, unrolled } from "../form";
  import type { Examine } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  const line = $derived(model.document?.finish_line ?? null);
  /** A cavity's outline has no ledge: what is told of it is the angle of its edge, along its course. */
  const cavity = $derived(model.document?.cavity ?? null);
  /** A window's line goes round the facial direction: from the edge over mesial to the neck. */
  const veneer = $derived(!!model.document?.veneer);
  const samples = $derived(
    cavity ? unrolled(line?.samples ?? []) : veneer ? byAzimuth(line?.samples ?? []) : (line?.samples ?? []),
  );
  const stops = $derived(cavity && line ? sideStops(line.samples) : []);
  const angles = $derived(model.standard?.bounds.cavosurface ?? null);
  const LOW_DEG = 50;
  const DEG = 1; // drawing units per degree
  const SIDES = $derived(
    veneer ? ["lingual", "mesial", "facial", "distal"] : ["facial", "mesial", "lingual", "distal"],
  );
  const WIDTH_TOP_MM = 2;
  const SCALE = 45; // drawing units per millimetre
  let hovered = $state<LineSample | null>(null);

  const limits = $derived(
    SIDES.map((side) => {
      const of = (bound: string) =>
        model.document?.verdicts.find(
          (v) => v.criterion === "finish-line-width" && v.zone === side && v.bound === bound,
        )?.limit ?? null;
      // Beside the contacts and behind, a ledge that is too wide is judged as a scoop.
      const zone = side === "lingual" ? "wrap" : `proximal/${side}`;
      const scoop =
        veneer && model.document?.verdicts.find((v) => v.criterion === "scoop" && v.zone === zone);
      return { side, min: of("min"), max: of("max") ?? (scoop ? scoop.limit : null) };
    }),
  );
  const middle = $derived.by(() => {
    const known = samples.map((s) => s.height_mm ?? 0);
    return known.length ? (Math.max(...known) + Math.min(...known)) / 2 : 0;
  });
  /** An outline climbs from a box's floor to the cusps: it is drawn to fit, a ledge true to its scale. */
  const climb = $derived.by(() => {
    const known = samples.map((s) => s.height_mm ?? 0);
    return (cavity || veneer) && known.length
      ? 80 / Math.max(Math.max(...known) - Math.min(...known), 1)
      : SCALE * 0.8;
  });
  const height = (s: LineSample) => (s.height_mm === null ? null : 50 - (s.height_mm - middle) * climb);
  const angle = (s: LineSample) =>
    s.cavosurface_deg === null
      ? null
      : 200 - (Math.min(Math.max(s.cavosurface_deg, LOW_DEG), 140) - LOW_DEG) * DEG;
  const width = (s: LineSample) =>
    s.width_mm === null || !s.defined ? null : 200 - Math.min(s.width_mm, WIDTH_TOP_MM) * SCALE;

  /** Where the cut runs out without an edge, how wide the stretch is in which it ends. */
  const band = $derived(
    hovered && line
      ? line.bands.find((b) => hovered!.azimuth_deg >= b.from_deg && hovered!.azimuth_deg < b.to_deg)
      : undefined,
  );

  function move(event: PointerEvent) {
    const box = (event.currentTarget as SVGSVGElement).getBoundingClientRect();
    const azimuth = ((event.clientX - box.left) / box.width) * 360;
    hovered = samples.reduce<LineSample | null>(
      (best, s) =>
        !best || Math.abs(s.azimuth_deg - azimuth) < Math.abs(best.azimuth_deg - azimuth) ? s : best,
      null,
    );
    model.markAt(hovered?.azimuth_deg ?? null);
  }
  function leave() {
    hovered = null;
    model.markAt(null);
  }
  $effect(() => () => model.markAt(null));
</script>

{#if line && samples.length}
  <svg
    viewBox="0 0 360 224"
    preserveAspectRatio="none"
    class="h-52 w-full shrink-0 touch-none bg-paper"
    role="img"
    aria-label={cavity
      ? "Outline unrolled: height above, angle of its edge below; hover to see the place on the tooth"
      : "Finish line unrolled: height above, width below; hover to see the place on the tooth"}
    onpointermove={move}
    onpointerleave={leave}
  >
    <defs>
      <pattern id="doubt" width="6" height="6" patternUnits="userSpaceOnUse">
        <path d="M0 6L6 0" stroke="var(--soft)" stroke-width="0.8" />
      </pattern>
    </defs>
    {#each doubtfulRuns(samples) as [from, to] (from)}
      <rect
        x={from}
        y="0"
        width={Math.max(to - from, 1)}
        height="204"
        fill="url(#doubt)"
        fill-opacity="0.5"
      />
    {/each}
    {#each limits as limit, k (limit.side)}
      {#each k === 0 ? [[0, 45], [315, 45]] : [[k * 90 - 45, 90]] as [x, w] (x)}
        {#if limit.min !== null && limit.max !== null}
          <rect
            {x}
            width={w}
            y={200 - limit.max * SCALE}
            height={(limit.max - limit.min) * SCALE}
            fill="var(--pine)"
            fill-opacity="0.16"
          />
          <line
            x1={x}
            x2={x! + w!}
            y1={200 - limit.min * SCALE}
            y2={200 - limit.min * SCALE}
            stroke="var(--pine)"
            stroke-width="1.2"
          />
        {/if}
      {/each}
    {/each}
    <line x1="0" x2="360" y1="200" y2="200" stroke="var(--ink)" stroke-width="1" />
    {#if cavity && angles?.min != null && angles.max != null}
      <rect
        x="0"
        width="360"
        y={200 - (angles.max - LOW_DEG) * DEG}
        height={(angles.max - angles.min) * DEG}
        fill="var(--pine)"
        fill-opacity="0.16"
      />
    {/if}
    <path d={stripPath(samples, cavity ? angle : width)} fill="none" stroke="var(--ink)" stroke-width="1.6" />
    <path d={stripPath(samples, height)} fill="none" stroke="var(--ink)" stroke-width="1.6" />
    {#each line.lips as lip (lip.from_deg)}
      <rect
        x={lip.from_deg}
        y="92"
        width={Math.max((lip.to_deg - lip.from_deg + 360) % 360, 1)}
        height="7"
        fill="var(--short)"
      />
    {/each}
    {#each line.steps as step (step.azimuth_deg)}
      <line
        x1={step.azimuth_deg}
        x2={step.azimuth_deg}
        y1="6"
        y2="92"
        stroke="var(--short)"
        stroke-width="2"
      />
    {/each}
    {#if hovered}
      <line
        x1={hovered.azimuth_deg}
        x2={hovered.azimuth_deg}
        y1="0"
        y2="204"
        stroke="var(--over)"
        stroke-width="1"
      />
    {/if}
  </svg>
  {#if cavity}
    <div class="relative h-6 text-sm text-soft" aria-hidden="true">
      {#each stops as stop (stop.side)}
        <span class="absolute -translate-x-1/2" style="left: {Math.min(Math.max(stop.at * 100, 6), 94)}%"
          >{stop.side === "lingual" ? (model.site?.lingual_word ?? "lingual") : stop.side}</span
        >
      {/each}
    </div>
  {:else if veneer}
    <div class="grid grid-cols-5 text-sm text-soft" aria-hidden="true">
      <span>edge</span><span class="text-center">mesial</span><span class="text-center">neck</span><span
        class="text-center">distal</span
      ><span class="text-right">edge</span>
    </div>
  {:else}
    <div class="grid grid-cols-5 text-sm text-soft" aria-hidden="true">
      <span>facial</span><span class="text-center">mesial</span><span class="text-center"
        >{model.site?.lingual_word ?? "lingual"}</span
      ><span class="text-center">distal</span><span class="text-right">facial</span>
    </div>
  {/if}
  <p class="min-h-12 text-base">
    {#if cavity && hovered}
      {#if hovered.cavosurface_deg !== null}
        The edge has <b>{hovered.cavosurface_deg.toFixed(0)}°</b> through the tooth here.
      {:else}
        No clear edge is seen here.
      {/if}
    {:else if cavity}
      {cavity.outline.length_mm.toFixed(0)} mm long. On cusp slopes its angle is shown, not judged.
    {:else if hovered}
      {#if hovered.defined && hovered.width_mm !== null}
        <b>{hovered.width_mm.toFixed(2)} mm</b> wide, {hovered.form?.replaceAll("-", " ") ??
          "form not told"}{#if (hovered.lip_mm ?? 0) > 0.03}, rim {hovered.lip_mm!.toFixed(2)} mm{/if}
      {:else}
        {veneer ? "No ledge ends here" : "No clear finish line is seen here"}{#if band}; it lies within <b
            >{band.width_mm.toFixed(1)} mm</b
          >{/if}.
      {/if}
    {:else if line.width_mm}
      Width <b>{line.width_mm.low.toFixed(2)}</b> to <b>{line.width_mm.high.toFixed(2)}</b> mm, median {line.width_mm.median.toFixed(
        2,
      )}.
    {/if}
  </p>
  <p class="text-sm text-soft">
    {#if cavity}
      Upper line: height. Lower line: angle of the edge, shaded from minimum to maximum. Hatched: no clear
      edge.
    {:else if veneer}
      Upper line: how far facial it runs. Lower line: depth of the cut at the line, shaded from minimum to
      maximum. Hatched: no ledge, as along a butt.
    {:else}
      Upper line: height. Lower line: width, shaded from minimum to maximum. Orange: steps and rims. Hatched:
      no clear finish line.
    {/if}
  </p>
{:else}
  <p class="text-soft">Not measured yet.</p>
{/if}
