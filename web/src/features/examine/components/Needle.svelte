<script lang="ts">
  import type { Tilt } from "../form";

  /** A path on a rose, as a needle from the middle: dragged, or moved by the arrow keys, a degree a press. */
  let {
    tilt,
    right,
    label,
    dragged,
    nudged,
  }: {
    tilt: Tilt;
    /** 1 where mesial lies to the right, -1 where it lies to the left. */
    right: number;
    label: string;
    /** From press to release; `last` with the release. */
    dragged: (tilt: Tilt, phase: "first" | "move" | "last") => void;
    nudged: (tilt: Tilt) => void;
  } = $props();

  const DEGREE = 3; // drawing units
  const MOST_DEG = 30;
  let held = $state(false);

  function at(event: PointerEvent): Tilt {
    const box = (event.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect();
    const x = ((event.clientX - box.left) / box.width) * 256 - 128;
    const y = ((event.clientY - box.top) / box.height) * 236 - 118;
    const hold = (v: number) => Math.max(-MOST_DEG, Math.min(MOST_DEG, v));
    return { mesial: hold((x * right) / DEGREE), facial: hold(-y / DEGREE) };
  }
  function start(event: PointerEvent) {
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
    held = true;
    dragged(at(event), "first");
  }
  function move(event: PointerEvent) {
    if (held) dragged(at(event), "move");
  }
  function release(event: PointerEvent) {
    if (!held) return;
    held = false;
    dragged(at(event), "last");
  }
  function nudge(event: KeyboardEvent) {
    const by = { ArrowLeft: [-right, 0], ArrowRight: [right, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[
      event.key
    ];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    nudged({ mesial: tilt.mesial + by[0]!, facial: tilt.facial + by[1]! });
  }
</script>

<line
  x1="0"
  y1="0"
  x2={tilt.mesial * DEGREE * right}
  y2={-tilt.facial * DEGREE}
  stroke="var(--short)"
  stroke-width="2"
/>
<circle
  cx={tilt.mesial * DEGREE * right}
  cy={-tilt.facial * DEGREE}
  r="11"
  fill="var(--card)"
  fill-opacity="0.85"
  stroke="var(--short)"
  stroke-width="3"
  class="cursor-move touch-none"
  role="slider"
  tabindex="0"
  aria-label={label}
  aria-valuenow={Math.round(Math.hypot(tilt.mesial, tilt.facial))}
  aria-valuemin="0"
  aria-valuemax={MOST_DEG}
  aria-valuetext="{tilt.mesial.toFixed(0)}° to mesial, {tilt.facial.toFixed(0)}° to facial"
  onpointerdown={start}
  onpointermove={move}
  onpointerup={release}
  onkeydown={nudge}
/>
