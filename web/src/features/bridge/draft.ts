import type { BridgeDocument, Measured, TaperRow } from "../../api/client";
import type { Lean } from "../examine/form";
import { add, cross, dot, scale, unit, vec, type Vec } from "../../sheet/vectors";

const QUANTILE = 0.05;
export const SIDES = ["facial", "mesial", "lingual", "distal"] as const;
export type Side = (typeof SIDES)[number];

/** A wall by its azimuth about its own tooth's path: which way it faces, unit. */
export interface Wall {
  azimuth_deg: number;
  normal: Vec;
}

/** The walls of an abutment in the scan's coordinates, from its tapers round its own path. */
export function wallsOf(abutment: Measured): Wall[] {
  const up = unit(vec(abutment.path.direction));
  const across = (v: Vec) => unit(add(v, up, -dot(v, up)));
  const facial = across(vec(abutment.frame.facial));
  const side = cross(up, facial);
  const mesial = scale(side, Math.sign(dot(side, vec(abutment.frame.mesial))) || 1);
  return (abutment.convergence?.by_azimuth ?? [])
    .filter((row): row is TaperRow & { taper_deg: number } => row.taper_deg !== null)
    .map((row) => {
      const [a, t] = [row.azimuth_deg, row.taper_deg].map((v) => (v * Math.PI) / 180) as [number, number];
      const out = add(scale(facial, Math.cos(a)), mesial, Math.sin(a));
      return { azimuth_deg: row.azimuth_deg, normal: add(scale(out, Math.cos(t)), up, Math.sin(t)) };
    });
}

/** How far each wall leans from a path, degrees; under nought it hangs over. */
export const draftsAlong = (walls: Wall[], path: Vec): Lean[] =>
  walls.map(({ azimuth_deg, normal }) => ({
    azimuth_deg,
    taper_deg: (Math.asin(Math.max(-1, Math.min(1, dot(normal, unit(path))))) * 180) / Math.PI,
  }));

/** The draft that a twentieth of the walls stay under; null where there are none. */
export function leastDraft(rows: Lean[]): number | null {
  const sorted = rows.map((row) => row.taper_deg).filter((v): v is number => v !== null);
  sorted.sort((a, b) => a - b);
  return sorted.length ? sorted[Math.floor(QUANTILE * (sorted.length - 1))]! : null;
}

/** Of each side of a tooth, the least draft of its walls. */
export function bySide(rows: Lean[]): Record<Side, number | null> {
  const near = (azimuth: number, middle: number) => Math.abs(((azimuth - middle + 540) % 360) - 180) <= 45;
  return Object.fromEntries(
    SIDES.map((side, k) => [side, leastDraft(rows.filter((row) => near(row.azimuth_deg, 90 * k)))]),
  ) as Record<Side, number | null>;
}

/** Angle between two directions, degrees. */
export const apart = (a: Vec, b: Vec) =>
  (Math.acos(Math.max(-1, Math.min(1, dot(unit(a), unit(b))))) * 180) / Math.PI;

/** One answer for the whole: whether one path serves, or what forbids it. */
export function answerOf(bridge: BridgeDocument): string {
  const { path } = bridge;
  if (path.exists) return `One path for all: least draft ${path.least_draft_deg.toFixed(1)}°`;
  const worst = path.limited_by[0];
  return worst
    ? `No common path: the ${worst.side} wall of ${worst.tooth} lacks ${worst.missing_deg.toFixed(1)}°`
    : "No common path";
}
