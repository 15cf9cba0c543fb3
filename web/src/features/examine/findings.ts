/** The verdicts of a measurement, sorted and worded for the hand. Judging itself is done by the server. */
export interface Verdict {
  criterion: string;
  zone: string;
  bound: "min" | "max";
  value: number | null;
  unit: string;
  U: number | null;
  limit: number | null;
  target: number | null;
  status: "meets" | "within-uncertainty" | "short" | "over" | "not-measured";
  missing: number | null;
  to_target: number | null;
  why: string;
  source: string;
  at: number[] | null;
  where: string;
}

export type LensName = "depth" | "space";

/** Which lens shows what a criterion is about. */
export const LENS_OF: Record<string, LensName> = {
  reduction: "depth",
  "tooth-removed": "depth",
  clearance: "space",
};

const NAMES: Record<string, string> = {
  reduction: "reduction",
  clearance: "space to the opposing teeth",
  "tooth-removed": "tooth removed",
  bite: "bite",
  alignment: "alignment of the scans",
  "finish-line-gap": "finish line",
};

export const criterionName = (criterion: string) => NAMES[criterion] ?? criterion.replaceAll("-", " ");

/** What asks for attention first: proven faults, then doubts. One entry per place and criterion. */
export function attention(verdicts: Verdict[]): Verdict[] {
  const seen = new Set<string>();
  return verdicts.filter((v) => {
    // With the natural tooth as reference, tooth removed repeats the reduction's upper bound.
    if (v.criterion === "tooth-removed" && v.status !== "not-measured" && hasTwin(v, verdicts)) return false;
    if (v.status !== "short" && v.status !== "over" && v.status !== "within-uncertainty") return false;
    const key = `${v.criterion}:${v.zone}:${v.bound}`;
    return !seen.has(key) && !!seen.add(key);
  });
}

const hasTwin = (v: Verdict, all: Verdict[]) =>
  all.some((w) => w.criterion === "reduction" && w.bound === "max" && w.zone === v.zone);

export const unmeasured = (verdicts: Verdict[]) =>
  verdicts.filter((v) => v.status === "not-measured" && !v.why.includes("not built into this version"));

export function amount(v: Verdict): string {
  if (v.missing === null) return "";
  // Less than the uncertainty is no amount: a figure here would be taken for one.
  if (v.status === "within-uncertainty") return "?";
  const size = Math.abs(v.missing);
  if (v.unit === "mm") return `${size.toFixed(size < 0.095 ? 2 : 1)} mm`;
  return v.unit === "count" ? "" : `${size.toFixed(0)} ${v.unit}`;
}

export function says(v: Verdict): string {
  if (v.status === "short") return "short of minimum";
  if (v.status === "over") return v.unit === "count" ? "not closed" : "over maximum";
  if (v.status === "within-uncertainty") {
    const near = v.bound === "min" ? "minimum" : "maximum";
    return (v.missing ?? 0) > 0 === (v.bound === "min") ? `doubtful: near ${near}` : `just within ${near}`;
  }
  return v.status === "meets" ? "meets" : "not measured";
}

/** Smaller corrections are not asked of a hand. */
const HAND_MM = 0.2;

export function advice(v: Verdict): string {
  if (v.criterion === "bite" || v.criterion === "alignment") return v.why;
  if (v.status === "over") return "Too much is cut here already: cut no more at this place.";
  const toTarget = v.to_target ?? 0;
  if (v.status === "within-uncertainty") {
    return "Too near the limit to say. Leave it, or recheck when other places are mended.";
  }
  if (v.criterion === "clearance") {
    return `Open ${Math.max(0, v.missing ?? 0).toFixed(1)} mm more space here; ${toTarget.toFixed(1)} mm to target.`;
  }
  if (toTarget < HAND_MM) return "Less than a hand can take off with certainty; round and polish only.";
  return `Remove ${Math.max(0, v.missing ?? 0).toFixed(1)} mm to reach the minimum, ${toTarget.toFixed(1)} mm to reach the target.`;
}
