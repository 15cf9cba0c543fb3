import { add, cross, dot, scale, unit, type Vec } from "../../sheet/vectors";
import type { Frame } from "../../sheet/views";

/** A plane that holds the long axis, turned by an angle from facial towards mesial and set off from the middle. */
export interface Cut {
  angle_deg: number;
  offset_mm: number;
  /** Across the tooth, at a level over the middle, instead of along its axis. */
  level?: boolean;
}
export const OFFSET_MM = 6; // the furthest a section goes from the middle
export const [HALF_MM, BELOW_MM, ABOVE_MM] = [7, 5, 6]; // of its outline on the sheet

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
  return { angle_deg: angle, offset_mm: tenth(along(normal)) };
}

const tenth = (mm: number) => Math.round(mm * 10) / 10;

/** The cut set off so that it goes through a place on the tooth, the turn kept. */
export function cutOffset(cut: Cut, place: Vec, frame: Frame, centre: Vec): Cut {
  const { normal } = planeOf({ ...cut, offset_mm: 0 }, frame, centre);
  const off = tenth(dot(add(place, centre, -1), normal));
  return { ...cut, offset_mm: Math.min(OFFSET_MM, Math.max(-OFFSET_MM, off)) };
}

/** The cut turned about the long axis so that its plane runs towards a place; a level one does not turn. */
export function cutTowards(cut: Cut, place: Vec, frame: Frame, centre: Vec): Cut {
  if (cut.level) return cut;
  const off = add(place, centre, -1);
  const angle = (Math.atan2(dot(off, frame.mesial), dot(off, frame.facial)) * 180) / Math.PI;
  return { ...cut, angle_deg: (((Math.round(angle / 5) * 5) % 180) + 180) % 180 };
}

export const path = (line: number[][]) =>
  line.map(([x, y], i) => `${i ? "L" : "M"}${x!.toFixed(3)} ${(-y!).toFixed(3)}`).join("");

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
