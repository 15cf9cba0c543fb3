import { add, cross, dot, scale, unit, vec, type Vec } from "../../sheet/vectors";
import type { Frame } from "../../sheet/views";

/** A plane that holds the long axis, turned by an angle from facial towards mesial and set off from the middle. */
export interface Cut {
  angle_deg: number;
  offset_mm: number;
  /** Across the tooth, at a level over the middle, instead of along its axis. */
  level?: boolean;
}

export function planeOf(cut: Cut, frame: Frame, centre: Vec) {
  const up = unit(frame.occlusal);
  if (cut.level)
    return { origin: add(centre, up, cut.offset_mm), normal: up, up: frame.facial, along: frame.mesial };
  const a = (cut.angle_deg * Math.PI) / 180;
  const along = unit(add(scale(frame.facial, Math.cos(a)), frame.mesial, Math.sin(a)));
  const normal = unit(cross(along, up));
  return { origin: add(centre, normal, cut.offset_mm), normal, up, along };
}

/** The cut through a place: faciolingual unless the place lies clearly mesial or distal. */
export function cutThrough(place: Vec, frame: Frame, centre: Vec): Cut {
  const off = add(place, centre, -1);
  const along = (axis: Vec) => off[0] * axis[0] + off[1] * axis[1] + off[2] * axis[2];
  const angle = Math.abs(along(frame.mesial)) > 1.6 * Math.abs(along(frame.facial)) ? 90 : 0;
  const { normal } = planeOf({ angle_deg: angle, offset_mm: 0 }, frame, centre);
  return { angle_deg: angle, offset_mm: Math.round(along(normal) * 10) / 10 };
}

export const path = (line: number[][]) =>
  line.map(([x, y], i) => `${i ? "L" : "M"}${x!.toFixed(3)} ${(-y!).toFixed(3)}`).join("");

/** Where a closed curve goes through a plane, as places in the plane: the outermost two, from left to right. */
export function crossings(
  points: number[][],
  plane: { origin: Vec; normal: Vec },
  across: Vec,
  up: Vec,
): number[][] {
  const found: number[][] = [];
  points.forEach((p, k) => {
    const q = points[(k + 1) % points.length]!;
    const [a, b] = [p, q].map((place) => add(vec(place), plane.origin, -1)) as [Vec, Vec];
    const [u, v] = [dot(a, plane.normal), dot(b, plane.normal)];
    if (u > 0 === v > 0) return;
    const at = add(a, add(b, a, -1), u / (u - v));
    found.push([dot(at, across), dot(at, up)]);
  });
  found.sort((a, b) => a[0]! - b[0]!);
  return found.length < 2 ? [] : [found[0]!, found.at(-1)!];
}

const [BESIDE, ABOVE] = [1.6, 14]; // mm beside the finish line and over it, where the planned crown may stand

/** The part of the drawing over the finish line, as an SVG path: gingiva and root lie outside it. */
export function overLine(ends: number[][]): string {
  if (ends.length < 2) return "";
  const [[x1, y1], [x2, y2]] = ends as [number[], number[]];
  return (
    path([
      [x1! - BESIDE, y1!],
      [x1!, y1!],
      [x2!, y2!],
      [x2! + BESIDE, y2!],
      [x2! + BESIDE, ABOVE],
      [x1! - BESIDE, ABOVE],
    ]) + "Z"
  );
}
