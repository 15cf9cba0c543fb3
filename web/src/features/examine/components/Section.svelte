<script lang="ts">
  import { api, type SectionLines, sentenceOf } from "../../../api/client";
  import { add, dot, vec, type Vec } from "../../../sheet/vectors";
  import Button from "../../../ui/Button.svelte";
  import Slider from "../../../ui/Slider.svelte";
  import { ABOVE_MM, BELOW_MM, cutThrough, HALF_MM, OFFSET_MM, overLine, path, planeOf } from "../section";
  import type { Examine } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  let lines = $state.raw<SectionLines | null>(null);
  let said = $state("");
  let withLast = $state(true); // the attempt before, where there is one
  let marks = $state<{ x: number; y: number }[]>([]);
  let ticket = 0;
  let drawing: SVGSVGElement;

  const cut = $derived(model.cut);
  const finding = $derived(model.rows[model.chosen]?.findings[0] ?? null);
  $effect(() => {
    if (finding?.at && model.frame) model.cut = cutThrough(vec(finding.at), model.frame, model.centre);
  });

  const minimum = $derived.by(() => {
    const found = model.document?.verdicts.find(
      (v) =>
        v.criterion === "reduction" &&
        v.bound === "min" &&
        (finding ? v.zone === finding.zone : true) &&
        v.limit,
    );
    return found?.limit ?? null;
  });

  const REACH_MM = 9;
  const svg = $derived.by(() => {
    if (!model.frame) return "";
    const plane = planeOf(cut, model.frame, model.centre);
    const query = (["origin", "normal", "up"] as const).flatMap((k) =>
      plane[k].map((v) => `${k}=${v.toFixed(5)}`),
    );
    if (minimum !== null) query.push(`minimum_mm=${minimum}`);
    return `/api/readings/${model.readingId}/section.svg?${query.join("&")}`;
  });
  $effect(() => {
    if (!model.frame) return;
    const { origin, normal, up, along } = planeOf(cut, model.frame, model.centre);
    const corner = (a: number, b: number): Vec => add(add(origin, along, a), up, b);
    model.plane([
      corner(-HALF_MM, -BELOW_MM),
      corner(HALF_MM, -BELOW_MM),
      corner(HALF_MM, ABOVE_MM),
      corner(-HALF_MM, ABOVE_MM),
    ]);
    const mine = ++ticket;
    const last = withLast && model.number > 1;
    const wait = setTimeout(async () => {
      try {
        // The attempt before is laid on this one first, which takes a moment: it follows.
        for (const more of last ? [false, true] : [false]) {
          const got = await api.section(model.readingId, { origin, normal, up }, REACH_MM, more);
          if (mine !== ticket) return;
          [lines, said] = [got, ""];
        }
      } catch (error) {
        if (mine === ticket) said = sentenceOf(error);
      }
    }, 120);
    return () => clearTimeout(wait);
  });
  $effect(() => () => model.plane(null));

  /** The material's ribbon belongs to the crown: over the finish line, never over gingiva. */
  const crown = $derived(lines && !cut.level ? overLine(lines.crossings) : "");
  const TOLD_OUT_MM = 0.75; // from the earlier outline to its figure
  /** Where a thickness is written: outside the earlier outline, on the line that it measures. */
  const told = $derived(
    (lines?.thickness ?? []).map((row) => {
      const [[x, y], [tx, ty]] = [row.place, row.to] as [[number, number], [number, number]];
      const size = Math.hypot(tx - x, ty - y) || 1;
      const out = { x: tx + ((tx - x) / size) * TOLD_OUT_MM, y: ty + ((ty - y) / size) * TOLD_OUT_MM };
      const anchor = out.x - tx > 0.3 ? "start" : out.x - tx < -0.3 ? "end" : "middle";
      const short = minimum !== null && row.mm < minimum;
      return { x, y, tx, ty, out, anchor, short, text: row.mm.toFixed(2), at: row.at };
    }),
  );
  const all = (role: string) => (lines?.lines[role] ?? []).map(path).join("");
  function measure(event: MouseEvent) {
    const matrix = drawing.getScreenCTM();
    if (!matrix) return;
    const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse());
    marks = marks.length >= 2 ? [{ x: p.x, y: p.y }] : [...marks, { x: p.x, y: p.y }];
  }
  /** What lies to the right in the drawing, and to the left. */
  const sides = $derived.by(() => {
    if (!lines || !model.frame) return null;
    const [f, m] = [dot(vec(lines.across), model.frame.facial), dot(vec(lines.across), model.frame.mesial)];
    const lingual = model.site?.lingual_word ?? "lingual";
    const names = Math.abs(f) >= Math.abs(m) ? ["facial", lingual] : ["mesial", "distal"];
    return (Math.abs(f) >= Math.abs(m) ? f : m) > 0 ? names : names.reverse();
  });
  const gap = $derived(
    marks.length === 2 ? Math.hypot(marks[0]!.x - marks[1]!.x, marks[0]!.y - marks[1]!.y) : null,
  );
</script>

<section class="flex h-full flex-col gap-2 bg-card p-3" aria-label="Section">
  <div class="flex flex-wrap items-center gap-2">
    <h2 class="mr-auto text-lg font-semibold">
      Section <span class="text-sm font-normal text-soft">the tooth sliced like a silicone index</span>
    </h2>
    <Button
      pressed={!cut.level && cut.angle_deg === 0}
      onclick={() => (model.cut = { angle_deg: 0, offset_mm: 0 })}>Faciolingual</Button
    >
    <Button
      pressed={!cut.level && cut.angle_deg === 90}
      onclick={() => (model.cut = { angle_deg: 90, offset_mm: 0 })}>Mesiodistal</Button
    >
    <Button pressed={!!cut.level} onclick={() => (model.cut = { angle_deg: 0, offset_mm: 0, level: true })}
      >Across</Button
    >
    {#if svg}<a
        class="inline-flex min-h-11 items-center rounded-md border border-rule px-3 text-ink no-underline"
        href={svg}
        download>SVG</a
      >{/if}
  </div>
  <button
    type="button"
    class="min-h-0 w-full flex-1 cursor-crosshair bg-paper"
    title="Outlines before and after, to scale; press two points to measure"
    onclick={measure}
  >
    <svg bind:this={drawing} viewBox="-7.5 -9 15 18" class="h-full w-full" aria-hidden="true">
      {#if minimum !== null}
        <clipPath id="over-line">
          {#if crown}<path d={crown} />{:else}<rect x="-20" y="-20" width="40" height="40" />{/if}
        </clipPath>
        <clipPath id="within-tooth" clip-path="url(#over-line)"><path d={all("preop")} /></clipPath>
        <path
          d={all("preop")}
          clip-path="url(#within-tooth)"
          fill="none"
          stroke="var(--pine)"
          stroke-opacity="0.22"
          stroke-width={2 * minimum}
          stroke-linejoin="round"
        />
      {/if}
      <path
        d={all("last")}
        fill="none"
        stroke="var(--pine)"
        stroke-opacity="0.6"
        stroke-width="0.08"
        stroke-dasharray="0.08 0.12"
      />
      <path d={all("opposing")} fill="none" stroke="var(--over)" stroke-width="0.09" />
      <path
        d={all("preop")}
        fill="none"
        stroke="var(--soft)"
        stroke-width="0.08"
        stroke-dasharray="0.28 0.16"
      />
      <path d={all("prep")} fill="none" stroke="var(--ink)" stroke-width="0.12" />
      {#each told as t, i (i)}
        <line
          x1={t.x}
          y1={-t.y}
          x2={t.tx}
          y2={-t.ty}
          stroke={t.short ? "var(--short)" : "var(--ink)"}
          stroke-width="0.06"
        />
        <text
          x={t.out.x}
          y={-t.out.y + 0.2}
          text-anchor={t.anchor}
          font-size="0.62"
          font-weight="700"
          paint-order="stroke"
          stroke="var(--paper)"
          stroke-width="0.22"
          fill={t.short ? "var(--short)" : "var(--ink)"}>{t.text}</text
        >
      {/each}
      {#each marks as m, i (i)}<circle cx={m.x} cy={m.y} r="0.16" fill="var(--short)" />{/each}
      {#if gap !== null}
        <line
          x1={marks[0]!.x}
          y1={marks[0]!.y}
          x2={marks[1]!.x}
          y2={marks[1]!.y}
          stroke="var(--short)"
          stroke-width="0.07"
        />
        <text
          x={(marks[0]!.x + marks[1]!.x) / 2 + 0.3}
          y={(marks[0]!.y + marks[1]!.y) / 2}
          font-size="0.8"
          fill="var(--short)"
          font-weight="700">{gap.toFixed(2)} mm</text
        >
      {/if}
      {#if sides}
        <text x="7.2" y="-8.2" text-anchor="end" font-size="0.62" fill="var(--soft)">{sides[0]}</text>
        <text x="-7.2" y="-8.2" font-size="0.62" fill="var(--soft)">{sides[1]}</text>
      {/if}
      <g transform="translate(-7 8.4)">
        <line x1="0" x2="2" y1="0" y2="0" stroke="var(--ink)" stroke-width="0.08" /><text
          x="2.3"
          y="0.2"
          font-size="0.6"
          fill="var(--soft)">2 mm</text
        >
      </g>
    </svg>
  </button>
  {#if said}<p class="text-short" role="alert">{said}</p>
  {:else if !lines}<p class="text-soft" role="status">Cutting through the scans …</p>{/if}
  <div class="grid grid-cols-2 gap-4 text-sm">
    <div>
      Turn {cut.angle_deg}°
      <Slider
        label="Turn of the section, degrees"
        value={cut.angle_deg}
        min={0}
        max={175}
        step={5}
        disabled={!!cut.level}
        onchange={(angle_deg) => (model.cut = { ...model.cut, angle_deg })}
      />
    </div>
    <div>
      Offset {cut.offset_mm.toFixed(1)} mm
      <Slider
        label="Offset of the section, mm"
        value={cut.offset_mm}
        min={-OFFSET_MM}
        max={OFFSET_MM}
        step={0.1}
        onchange={(mm) => (model.cut = { ...model.cut, offset_mm: Math.round(mm * 10) / 10 })}
      />
    </div>
  </div>
  <p class="text-sm text-soft">
    Solid: now. Dashed: before. {#if model.document?.clearance}Blue: opposing.{/if}
    {#if minimum !== null}Ribbon: the minimum of {minimum} mm; where the solid line runs in it, too little is cut.{/if}
    Figures: thickness in this plane, mm. Drag the ends on the tooth; press two points here to measure.
  </p>
  {#if model.number > 1}
    <label class="flex min-h-9 items-center gap-2 text-sm"
      ><input type="checkbox" class="h-5 w-5 accent-pine" bind:checked={withLast} />Dotted: the attempt before</label
    >
  {/if}
</section>
