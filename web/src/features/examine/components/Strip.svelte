<script lang="ts">
  import type { LineSample } from "../../../api/client";
  import { doubtfulRuns, stripPath } from "../form";
  import type { Examine } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  const line = $derived(model.document?.finish_line ?? null);
  const samples = $derived(line?.samples ?? []);
  const SIDES = ["facial", "mesial", "lingual", "distal"];
  const WIDTH_TOP_MM = 2;
  const SCALE = 45; // drawing units per millimetre
  let hovered = $state<LineSample | null>(null);

  const limits = $derived(
    SIDES.map((side) => {
      const of = (bound: string) =>
        model.document?.verdicts.find(
          (v) => v.criterion === "finish-line-width" && v.zone === side && v.bound === bound,
        )?.limit ?? null;
      return { side, min: of("min"), max: of("max") };
    }),
  );
  const middle = $derived.by(() => {
    const known = samples.map((s) => s.height_mm ?? 0);
    return known.length ? (Math.max(...known) + Math.min(...known)) / 2 : 0;
  });
  const height = (s: LineSample) => (s.height_mm === null ? null : 50 - (s.height_mm - middle) * SCALE * 0.8);
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
    aria-label="Finish line unrolled: height above, width below; hover to see the place on the tooth"
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
    <path d={stripPath(samples, width)} fill="none" stroke="var(--ink)" stroke-width="1.6" />
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
  <div class="grid grid-cols-5 text-sm text-soft" aria-hidden="true">
    <span>facial</span><span class="text-center">mesial</span><span class="text-center"
      >{model.site?.lingual_word ?? "lingual"}</span
    ><span class="text-center">distal</span><span class="text-right">facial</span>
  </div>
  <p class="min-h-12 text-base">
    {#if hovered}
      {#if hovered.defined && hovered.width_mm !== null}
        <b>{hovered.width_mm.toFixed(2)} mm</b> wide, {hovered.form?.replaceAll("-", " ") ??
          "form not told"}{#if (hovered.lip_mm ?? 0) > 0.03}, rim {hovered.lip_mm!.toFixed(2)} mm{/if}
      {:else}
        No clear finish line is seen here{#if band}; it lies within <b>{band.width_mm.toFixed(1)} mm</b>{/if}.
      {/if}
    {:else if line.width_mm}
      Width <b>{line.width_mm.low.toFixed(2)}</b> to <b>{line.width_mm.high.toFixed(2)}</b> mm, median {line.width_mm.median.toFixed(
        2,
      )}.
    {/if}
  </p>
  <p class="text-sm text-soft">
    Upper line: height. Lower line: width, shaded from minimum to maximum. Orange: steps and rims. Hatched: no
    clear finish line.
  </p>
{:else}
  <p class="text-soft">Not measured yet.</p>
{/if}
