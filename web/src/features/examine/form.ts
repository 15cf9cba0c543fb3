import type { CavityWall, LineSample, TaperRow } from "../../api/client";
import { add, dot, unit, type Vec } from "../../sheet/vectors";
import type { Frame } from "../../sheet/views";

const LOW_DEG = -6;
const HIGH_DEG = 22;

/** Distance from the rose's middle for a taper, 0 to 100; leaning back lies inside the ring of nought. */
export const roseRadius = (taper: number) =>
  (100 * (Math.min(HIGH_DEG, Math.max(LOW_DEG, taper)) - LOW_DEG)) / (HIGH_DEG - LOW_DEG);

/** Place on the rose: facial up, mesial to the right or left as the tooth is seen from above. */
export function rosePoint(azimuth_deg: number, radius: number, mesialRight: boolean): [number, number] {
  const a = (azimuth_deg * Math.PI) / 180;
  return [(mesialRight ? 1 : -1) * radius * Math.sin(a), -radius * Math.cos(a)];
}

/** A lean from the tooth's axis, degrees. */
export interface Tilt {
  mesial: number;
  facial: number;
}

/** How far a path leans from the tooth's axis towards mesial and towards facial, degrees. */
export function tiltOf(direction: Vec, frame: Frame): Tilt {
  const up = dot(direction, frame.occlusal);
  const lean = (axis: Vec) => (Math.atan2(dot(direction, axis), up) * 180) / Math.PI;
  return { mesial: lean(frame.mesial), facial: lean(frame.facial) };
}

/** The path that leans so: the inverse of `tiltOf`. */
export function pathOf(tilt: Tilt, frame: Frame): Vec {
  const run = (degrees: number) => Math.tan((degrees * Math.PI) / 180);
  return unit(add(add(frame.occlusal, frame.mesial, run(tilt.mesial)), frame.facial, run(tilt.facial)));
}

/** How far a wall leans, by its azimuth; null where none was fitted. */
export type Lean = Pick<TaperRow, "azimuth_deg" | "taper_deg">;

/** Outline of the tapers as an SVG path, broken where no wall was fitted. */
export function rosePath(rows: Lean[], mesialRight: boolean): string {
  let path = "";
  let open = false;
  for (const row of [...rows, rows[0]]) {
    if (!row || row.taper_deg === null) {
      open = false;
      continue;
    }
    const [x, y] = rosePoint(row.azimuth_deg, roseRadius(row.taper_deg), mesialRight);
    path += `${open ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`;
    open = true;
  }
  return path;
}

const AT: Record<string, number> = { facial: 0, mesial: 90, lingual: 180, distal: 270 };
const ARC_DEG = 28; // to either side of a wall's own

/** One wall of a cavity as an arc of the rose, at its side, as far out as it leans outward. */
export function wallArc(wall: CavityWall, mesialRight: boolean): string {
  const middle = AT[wall.side] ?? 0;
  const radius = roseRadius(wall.divergence_deg);
  const steps = Array.from({ length: 9 }, (_, k) => middle - ARC_DEG + (k * ARC_DEG) / 4);
  return steps
    .map((a, k) => {
      const [x, y] = rosePoint(a, radius, mesialRight);
      return `${k ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`;
    })
    .join("");
}

/** The outline's samples laid along their course, whose azimuth need not rise: the place of each as a share of 360. */
export const unrolled = (samples: LineSample[]): LineSample[] =>
  samples.map((s, k) => ({ ...s, azimuth_deg: (k / samples.length) * 360 }));

/** Samples of a line that goes round once, in the order of their azimuth. */
export const byAzimuth = (samples: LineSample[]): LineSample[] =>
  [...samples].sort((a, b) => a.azimuth_deg - b.azimuth_deg);

/** Where along an unrolled outline it looks most to each side. */
export function sideStops(samples: LineSample[]): { side: string; at: number }[] {
  return Object.entries(AT)
    .map(([side, azimuth]) => {
      const off = (s: LineSample) => Math.abs(((s.azimuth_deg - azimuth + 540) % 360) - 180);
      const best = samples.reduce((k, s, i) => (off(s) < off(samples[k]!) ? i : k), 0);
      return { side, at: best / samples.length };
    })
    .sort((a, b) => a.at - b.at);
}

/** A stretch of samples as an SVG polyline path; `y` gives the height of a sample, null breaks the line. */
export function stripPath(samples: LineSample[], y: (s: LineSample) => number | null): string {
  let path = "";
  let open = false;
  for (const sample of samples) {
    const value = y(sample);
    if (value === null) {
      open = false;
      continue;
    }
    path += `${open ? "L" : "M"}${sample.azimuth_deg.toFixed(1)} ${value.toFixed(2)}`;
    open = true;
  }
  return path;
}

/** Stretches [from, to] of azimuth where the edge is not told. */
export function doubtfulRuns(samples: LineSample[]): [number, number][] {
  const runs: [number, number][] = [];
  let from: number | null = null;
  for (const s of samples) {
    if (!s.defined && from === null) from = s.azimuth_deg;
    if (s.defined && from !== null) {
      runs.push([from, s.azimuth_deg]);
      from = null;
    }
  }
  if (from !== null) runs.push([from, 360]);
  return runs;
}
