<script lang="ts">
  import { onMount } from "svelte";
  import type { SheetScene } from "../../../sheet/scene";
  import { stage } from "../../../sheet/stage";
  import { add, unit, vec } from "../../../sheet/vectors";
  import { theme } from "../../../ui/theme.svelte";
  import { cutOffset, cutTowards, HALF_MM, OFFSET_MM, planeOf } from "../section";
  import type { Examine } from "../state.svelte";
  import ContactMarks from "./ContactMarks.svelte";

  let { model, ready }: { model: Examine; ready: () => void } = $props();
  let canvas: HTMLCanvasElement;
  let frame: HTMLDivElement;
  let scene = $state.raw<SheetScene | null>(null);
  let width = $state(1);

  onMount(() => {
    const made = stage(canvas, frame, {
      mirrored: () => model.mirrored,
      press: (place, x, y) => {
        if (model.brush.on) model.brush.press(place);
        else if (model.pins.on) void model.pins.press(place);
        else void model.hand.press(place);
        model.readAt(place ? { x, y, left: model.mirrored ? width - x : x } : null);
      },
      resized: (now) => (width = now),
    });
    scene = made.scene;
    model.attach(made.scene);
    ready();
    return () => {
      model.leave();
      made.leave();
    };
  });

  $effect(() => scene?.setGround(theme.ground, theme.dim));

  /** Handles of the finish line on the side that is seen, every one draggable, with keys too. */
  const handles = $derived.by(() => {
    void model.drawn;
    if (model.lens !== "line" || model.hand.tool !== "pull" || model.beside.on || !scene) return [];
    return model.hand.handles.flatMap((place, index) => {
      const at = model.screen([...place]);
      if (!at || !scene?.visible(place)) return [];
      return [{ index, x: model.mirrored ? width - at.x : at.x, y: at.y }];
    });
  });
  let dragged = $state<{ index: number; x: number; y: number } | null>(null);

  function placeOf(event: PointerEvent) {
    const box = frame.getBoundingClientRect();
    const x = event.clientX - box.left;
    return { x, y: event.clientY - box.top, onCanvas: model.mirrored ? box.width - x : x };
  }
  function grab(event: PointerEvent, index: number) {
    event.stopPropagation();
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    const at = placeOf(event);
    dragged = { index, x: at.x, y: at.y };
  }
  function drag(event: PointerEvent) {
    if (!dragged) return;
    event.stopPropagation();
    const at = placeOf(event);
    dragged = { ...dragged, x: at.x, y: at.y };
  }
  function drop(event: PointerEvent) {
    if (!dragged) return;
    event.stopPropagation();
    const at = placeOf(event);
    const place = scene?.pick(at.onCanvas, at.y) ?? null;
    const index = dragged.index;
    dragged = null;
    if (place) void model.hand.pull(index, place);
  }
  type End = "offset" | "turn";
  /** The ends of the section's plane: one moves it, one turns it. */
  const ends = $derived.by(() => {
    void model.drawn;
    if (model.panel !== "section" || !model.frame || !scene) return [];
    const plane = planeOf(model.cut, model.frame, model.centre);
    const sides: [End, number][] = model.cut.level ? [["offset", -1]] : [["offset", -1], ["turn", 1]]; // prettier-ignore
    return sides.map(([does, side]) => {
      const place = add(plane.origin, plane.along, side * HALF_MM);
      const at = model.screen([...place]) ?? { x: 0, y: 0 };
      return { does, place, x: model.mirrored ? width - at.x : at.x, y: at.y };
    });
  });
  let led = $state<End | null>(null);
  function lead(event: PointerEvent, end: (typeof ends)[number]) {
    event.stopPropagation();
    if (event.type === "pointerdown") {
      (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
      led = end.does;
    } else if (event.type === "pointerup") led = null;
    else if (led === end.does && model.frame && scene) {
      const at = placeOf(event);
      const place = scene.levelWith(at.onCanvas, at.y, end.place);
      const moved = end.does === "offset" ? cutOffset : cutTowards;
      model.cut = moved(model.cut, place, model.frame, model.centre);
    }
  }
  function leadByKey(event: KeyboardEvent, does: End) {
    const step = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
    if (!step) return;
    const { offset_mm, angle_deg } = model.cut;
    const offset = Math.min(OFFSET_MM, Math.max(-OFFSET_MM, Math.round((offset_mm + step / 10) * 10) / 10));
    model.cut =
      does === "offset"
        ? { ...model.cut, offset_mm: offset }
        : { ...model.cut, angle_deg: (angle_deg + 5 * step + 180) % 180 };
    event.preventDefault();
    event.stopPropagation();
  }

  const NUDGE_MM = 0.1;
  /** Up moves a handle outward by a tenth, Down inward, Delete lets the line find its own way there. */
  function nudge(event: KeyboardEvent, index: number) {
    const place = model.hand.handles[index];
    if (!place) return;
    const step = { ArrowUp: NUDGE_MM, ArrowDown: -NUDGE_MM }[event.key];
    if (event.key === "Delete") void model.hand.pull(index, null);
    else if (step) {
      void model.hand.pull(index, add(place, unit(add(place, model.centre, -1)), step));
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }

  const PIN_HALF = 40;
  const ASIDE = 52;
  const LEAST_PX = 240; // a tooth seen smaller than this has room for one amount alone, beside it
  const HALF_TOOTH_MM = 5;
  /** Whether the tooth is seen so small that amounts on it would hide it. */
  const small = $derived.by(() => {
    void model.drawn;
    const [middle, side] = [model.centre, model.frame?.mesial];
    const from = side && scene ? model.screen([...middle]) : null;
    const to = from && side ? model.screen(add(middle, side, HALF_TOOTH_MM)) : null;
    const across = model.frame && scene ? model.screen(add(middle, model.frame.facial, HALF_TOOTH_MM)) : null;
    if (!from || !to || !across) return false;
    const half = Math.max(
      Math.hypot(to.x - from.x, to.y - from.y),
      Math.hypot(across.x - from.x, across.y - from.y),
    );
    return 2 * half < LEAST_PX;
  });
  /** Where the finish line has handles, or the tooth is small, amounts stand a little outside it. */
  function outward(at: { x: number; y: number }) {
    const aside = small || (model.lens === "line" && model.hand.tool === "pull");
    const centre = aside ? model.screen([...model.centre]) : null;
    if (!centre) return at;
    const size = Math.hypot(at.x - centre.x, at.y - centre.y) || 1;
    return {
      x: at.x + ((at.x - centre.x) / size) * ASIDE,
      y: at.y + ((at.y - centre.y) / size) * ASIDE,
    };
  }

  const PINS = 5;
  /** Amounts written on the ground, as a surveyor would: the chosen place and the worst few of this lens. */
  const pins = $derived.by(() => {
    void model.drawn; // labels follow every picture
    const rows: { index: number; chosen: boolean; x: number; y: number; over: boolean; text: string }[] = [];
    const most = small ? 1 : PINS;
    for (const [index, row] of model.rows.entries()) {
      const chosen = index === model.chosen;
      const finding = row.findings.find((f) => f.lens === model.lens) ?? row.findings[0]!;
      if (!finding.at || finding.unit !== "mm") continue;
      if (!chosen && (finding.status === "within-uncertainty" || rows.length >= most)) continue;
      if (!chosen && finding.lens !== model.lens) continue;
      const at = model.screen(finding.at);
      if (!at || !at.facing) continue;
      const aside = outward(at);
      const wanted = model.mirrored ? width - aside.x : aside.x;
      const x = Math.min(Math.max(wanted, PIN_HALF), width - PIN_HALF); // never cut off at the rim
      // Amounts never lie on one another: the worse one stays.
      if (!chosen && rows.some((other) => Math.abs(other.x - x) < 64 && Math.abs(other.y - aside.y) < 36))
        continue;
      rows.push({ index, chosen, x, y: aside.y, over: finding.status === "over", text: finding.amount });
    }
    return rows;
  });

  /** The pins that were set, where they are seen. */
  const marks = $derived.by(() => {
    void model.drawn;
    return model.pins.all.flatMap((pin, index) => {
      const at = model.screen(pin.place);
      if (!at || !scene?.visible(vec(pin.place))) return [];
      return [{ index, x: model.mirrored ? width - at.x : at.x, y: at.y, text: model.pinTexts[index] ?? "" }];
    });
  });

  const NUMBER_APART = [30, 22] as const;
  /** Numbers on the contour lines, where they are seen and do not lie on each other or on an amount. */
  const numbers = $derived.by(() => {
    void model.drawn;
    if (!scene) return [];
    const rows: { key: string; x: number; y: number; text: string }[] = [];
    for (const number of model.numbers) {
      if (!scene.faces(number.normal)) continue;
      const at = model.screen([...number.place]);
      if (!at?.facing) continue;
      const x = model.mirrored ? width - at.x : at.x;
      const near = (o: { x: number; y: number }, w: number, h: number) =>
        Math.abs(o.x - x) < w && Math.abs(o.y - at.y) < h;
      if (rows.some((r) => near(r, ...NUMBER_APART)) || pins.some((p) => near(p, 46, 28))) continue;
      rows.push({ key: number.place.join(), x, y: at.y, text: number.text });
    }
    return rows;
  });

  const TURN_PX = 40; // of a drag, that one press of an arrow key stands for
  function turn(event: KeyboardEvent) {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (by) scene?.turn(by[0]! * TURN_PX * (model.mirrored ? -1 : 1), by[1]! * TURN_PX);
    else if (event.key === "+" || event.key === "=") scene?.zoom(0.85);
    else if (event.key === "-") scene?.zoom(1.18);
    else return;
    event.preventDefault();
  }

  let asked = 0;
  /** What the tooth says under a pointer that rests on it; a finger asks by a still press. */
  function ask(event: PointerEvent) {
    if (event.buttons !== 0) return void model.readAt(null);
    const at = placeOf(event);
    cancelAnimationFrame(asked);
    asked = requestAnimationFrame(() => model.readAt({ x: at.onCanvas, y: at.y, left: at.x }));
  }

  /** Which way is facial, mesial …: letters at the rim of the sheet. */
  const bearings = $derived.by(() => {
    void model.drawn;
    const frameAxes = model.frame;
    if (!frameAxes || !scene) return [];
    const lingual = model.site?.lingual_word ?? "lingual";
    const sides = [
      ["facial", frameAxes.facial, 1],
      [lingual, frameAxes.facial, -1],
      ["mesial", frameAxes.mesial, 1],
      ["distal", frameAxes.mesial, -1],
    ] as const;
    return sides.flatMap(([name, axis, sign]) => {
      const c = model.centre;
      const at = model.screen([
        c[0] + axis[0] * sign * 8,
        c[1] + axis[1] * sign * 8,
        c[2] + axis[2] * sign * 8,
      ]);
      const from = model.screen([...c]);
      if (!at || !from) return [];
      const [dx, dy] = [at.x - from.x, at.y - from.y];
      const size = Math.hypot(dx, dy);
      if (size < 90) return []; // seen end-on it says nothing
      const [w, h] = [width / 2 - 44, (frame?.clientHeight ?? 400) / 2 - 112];
      const k = Math.min(Math.abs(w / (dx || 1e-6)), Math.abs(h / (dy || 1e-6)));
      const x = width / 2 + dx * k;
      return [{ name, x: model.mirrored ? width - x : x, y: (frame?.clientHeight ?? 0) / 2 + dy * k }];
    });
  });
</script>

<!-- An application in itself: the tooth is turned by pointer and by arrow keys. -->
<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
  bind:this={frame}
  class="relative h-full w-full touch-none overflow-hidden select-none"
  role="application"
  tabindex="0"
  aria-label="The preparation in three dimensions, {model.lens} lens. Arrow keys turn it, plus and minus zoom."
  onkeydown={turn}
  onpointermove={ask}
  onpointerleave={() => (cancelAnimationFrame(asked), model.readAt(null))}
>
  <canvas
    bind:this={canvas}
    class="h-full w-full"
    data-drawn={model.firstPictureMs ? "yes" : "no"}
    style:transform={model.mirrored ? "scaleX(-1)" : ""}
  ></canvas>
  <ContactMarks {model} {scene} {width} />
  {#each bearings as b (b.name)}
    <span
      class="pointer-events-none absolute z-10 -translate-x-1/2 -translate-y-1/2 rounded bg-card/80 px-1.5 text-sm tracking-wide text-ink"
      style="left: {b.x}px; top: {b.y}px">{b.name}</span
    >
  {/each}
  {#each handles as handle (handle.index)}
    {@const held = dragged?.index === handle.index}
    <button
      type="button"
      class="absolute z-10 grid h-9 w-9 -translate-x-1/2 -translate-y-1/2 place-items-center rounded-full"
      style="left: {held ? dragged!.x : handle.x}px; top: {held ? dragged!.y : handle.y}px"
      aria-label="Point {handle.index +
        1} of the finish line: drag it, or Up and Down to move, Delete to let it find its way"
      disabled={model.judging}
      onpointerdown={(e) => grab(e, handle.index)}
      onpointermove={drag}
      onpointerup={drop}
      onkeydown={(e) => nudge(e, handle.index)}
    >
      <i class="h-3.5 w-3.5 rounded-full border-2 border-pine {held ? 'bg-pine' : 'bg-card'}"></i>
    </button>
  {/each}
  {#each ends as end (end.does)}
    <button
      type="button"
      class="absolute z-10 grid h-11 w-11 -translate-x-1/2 -translate-y-1/2 cursor-grab place-items-center"
      style="left: {end.x}px; top: {end.y}px"
      aria-label={end.does === "offset"
        ? "Move the section: drag, or arrow keys"
        : "Turn the section: drag, or arrow keys"}
      title={end.does === "offset" ? "Move the section" : "Turn the section"}
      onpointerdown={(e) => lead(e, end)}
      onpointermove={(e) => lead(e, end)}
      onpointerup={(e) => lead(e, end)}
      onkeydown={(e) => leadByKey(e, end.does)}
    >
      <i
        class="h-5 w-5 border-2 border-over {end.does === 'turn' ? 'rounded-full' : 'rounded-sm'}
          {led === end.does ? 'bg-over' : 'bg-card'}"
      ></i>
    </button>
  {/each}
  {#each numbers as number (number.key)}
    <span
      class="pointer-events-none absolute -translate-x-1/2 -translate-y-1/2 rounded-sm bg-card/75 px-0.5 text-xs leading-tight font-semibold text-ink tabular-nums"
      style="left: {number.x}px; top: {number.y}px">{number.text}</span
    >
  {/each}
  {#if model.reading}
    <p
      class="pointer-events-none absolute z-20 rounded-md border border-pine bg-card px-2 py-1 text-base font-semibold whitespace-nowrap tabular-nums shadow
        {model.reading.x > width / 2 ? '-translate-x-full' : ''}"
      style="left: {model.reading.x + (model.reading.x > width / 2 ? -14 : 14)}px; top: {Math.max(
        model.reading.y - 44,
        4,
      )}px"
      aria-live="polite"
    >
      {model.reading.text}
    </p>
  {/if}
  {#each marks as mark (mark.index)}
    <button
      type="button"
      class="absolute z-10 flex min-h-8 min-w-8 -translate-x-1/2 -translate-y-full items-center justify-center rounded-full rounded-b-sm border-2 border-pine px-1.5 text-sm font-bold
        {model.pins.ends.includes(mark.index) ? 'bg-pine text-pine-ink' : 'bg-card text-ink'}"
      style="left: {mark.x}px; top: {mark.y}px"
      aria-label="Pin {mark.index + 1}: {model.pins.all[mark.index]?.name ?? ''} {mark.text}"
      onclick={() => void model.pins.touch(mark.index)}>{mark.index + 1}</button
    >
  {/each}
  {#each pins as pin (pin.index)}
    <button
      type="button"
      class="absolute -translate-x-1/2 -translate-y-1/2 rounded border-2 px-2 py-0.5 text-base font-bold
        {pin.over ? 'border-over text-over' : 'border-short text-short'}
        {pin.chosen ? 'z-10 bg-card text-xl shadow-md' : 'bg-card/85'}"
      style="left: {pin.x}px; top: {pin.y}px"
      onclick={() => model.choose(pin.index)}
      aria-label="Finding {pin.index + 1}: {pin.text}"
    >
      {pin.over ? "+" : "−"}{pin.text.replace(" mm", "")}
    </button>
  {/each}
</div>
