import type { Measured } from "../../api/client";
import { add, scale, vec, type Vec } from "../../sheet/vectors";
import type { Frame } from "../../sheet/views";

const UP_MM = 2; // from the finish line's middle into the preparation's

export const frameOf = (document: Measured): Frame => ({
  occlusal: vec(document.frame.occlusal),
  facial: vec(document.frame.facial),
  mesial: vec(document.frame.mesial),
});

/** The middle of the preparation, about which the sheet turns. */
export function centreOf(document: Measured | null): Vec {
  const points = document?.finish_line.points ?? [];
  const sum = points.reduce<Vec>((total, p) => add(total, vec(p)), [0, 0, 0]);
  const middle = scale(sum, 1 / Math.max(points.length, 1));
  return add(middle, vec(document?.frame.occlusal ?? []), UP_MM);
}
