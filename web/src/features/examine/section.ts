import { add, cross, scale, unit, type Vec } from "../../sheet/vectors";
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
