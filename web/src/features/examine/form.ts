import type { LineSample, TaperRow } from "../../api/client";
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

/** Outline of the tapers as an SVG path, broken where no wall was fitted. */
export function rosePath(rows: TaperRow[], mesialRight: boolean): string {
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
