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

export const LENS_NAMES = ["depth", "space", "draw", "line", "edges", "next", "change"] as const;
export type LensName = (typeof LENS_NAMES)[number];

/** Which lens shows what a criterion is about. */
export const LENS_OF: Record<string, LensName> = {
  reduction: "depth",
  "tooth-removed": "depth",
  clearance: "space",
  undercut: "draw",
  draft: "draw",
  convergence: "draw",
  resistance: "draw",
  "wall-height": "draw",
  "path-blocked": "draw",
  "remaining-width": "draw",
  "finish-line-width": "line",
  "finish-line-form": "line",
  "finish-line-step": "line",
  "finish-line-lip": "line",
  "finish-line-roughness": "line",
  "finish-line-gap": "line",
  "margin-height": "line",
  ferrule: "line",
  "neighbour-gap": "line",
  "neighbour-nick": "next",
  "edge-radius": "edges",
  "milled-fit": "depth",
};

const NAMES: Record<string, string> = {
  reduction: "reduction",
  clearance: "space to the opposing teeth",
  "tooth-removed": "tooth removed",
  bite: "bite",
  alignment: "alignment of the scans",
  "finish-line-gap": "finish line",
  "finish-line-width": "width",
  "finish-line-form": "form",
  "finish-line-step": "step",
  "finish-line-lip": "J-margin",
  "finish-line-roughness": "roughness",
  convergence: "total occlusal convergence",
  "path-blocked": "path of insertion blocked",
  "wall-height": "wall height",
  "remaining-width": "tooth that remains",
  resistance: "resistance to tipping",
  draft: "draft along the path",
  "margin-height": "below the gingiva",
  ferrule: "ferrule",
  "neighbour-gap": "room beside the finish line",
  "neighbour-nick": "nick",
  "edge-radius": "edge radius",
  "milled-fit": "thickness left after milling",
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

const OWN_SIZE = new Set([
  "undercut",
  "finish-line-step",
  "finish-line-lip",
  "finish-line-roughness",
  "path-blocked",
  "neighbour-nick",
]);

export function amount(v: Verdict): string {
  if (v.missing === null) return "";
  // Less than the uncertainty is no amount: a figure here would be taken for one.
  if (v.status === "within-uncertainty") return "?";
  const size = Math.abs(v.missing);
  // A step, a rim or a rough stretch is wanted at nought: its own size says more than the excess.
  if (OWN_SIZE.has(v.criterion) && v.value !== null) {
    return v.unit === "mm" ? `${v.value.toFixed(2)} mm` : `${v.value.toFixed(0)} ${v.unit}`;
  }
  if (v.unit === "deg") return `${size.toFixed(size < 9.5 ? 1 : 0)}°`;
  if (v.unit === "ratio") return size.toFixed(2);
  if (v.unit === "mm") return `${size.toFixed(size < 0.095 ? 2 : 1)} mm`;
  return v.unit === "count" ? "" : `${size.toFixed(0)} ${v.unit}`;
}

export function says(v: Verdict): string {
  if (v.status === "short") return "short of minimum";
  if (v.status === "over") {
    if (v.criterion === "finish-line-form") return "not the wanted form";
    if (OWN_SIZE.has(v.criterion)) return `${v.limit} ${v.unit} allowed`;
    return v.unit === "count" ? "not closed" : "over maximum";
  }
  if (v.status === "within-uncertainty") {
    const near = v.bound === "min" ? "minimum" : "maximum";
    return (v.missing ?? 0) > 0 === (v.bound === "min") ? `doubtful: near ${near}` : `just within ${near}`;
  }
  return v.status === "meets" ? "meets" : "not measured";
}

/** What to do about what is not mended by taking off a depth. */
const ADVICE: Record<string, string> = {
  undercut:
    "Take the overhang off at the top of the wall, or tilt the path, or block it out. Do not widen the whole wall.",
  draft: "Lean the bur in a little on this wall only; mind the convergence and the finish line.",
  convergence:
    "Walls that are too tapered cannot be cut back: add grooves or a box, or bond. Do not cut further.",
  resistance: "Short or tapered walls hold little: a groove, a box, bonding, or a longer crown helps.",
  "wall-height": "Keep what height there is: cut no more from the top than the material needs.",
  "remaining-width": "Little tooth is left here: cut no more, and think of another material.",
  "path-blocked": "Tilt the path, or recontour the neighbour as planned and agreed.",
  "finish-line-form": "Finish with the bur whose tip gives the wanted form.",
  "finish-line-step":
    "Run the finishing bur along both levels until they meet; go no deeper than the lower one.",
  "finish-line-lip": "Take the rim down with the bur sunk no more than half its tip.",
  "margin-height":
    "A deep edge is hard to scan and to keep clean: retract well, and think of raising or of lengthening the crown.",
  ferrule:
    "Too little dentine holds the core: keep what is there, and think of lengthening the crown or extruding the tooth.",
  "neighbour-gap":
    "Open a little at the finish line or the neighbour, as planned and agreed; mind the neighbour.",
  "neighbour-nick": "Polish the neighbour, note it and tell the patient. Use a guard for the next pass.",
  "edge-radius": "Round this edge with a fine bur; take nothing off the walls.",
  "milled-fit": "Round the edge first: that alone gives thickness back. Then look at the depth again.",
  "finish-line-roughness": "Smooth this stretch with a fine finishing bur, without going deeper.",
};

/** Smaller corrections are not asked of a hand. */
const HAND_MM = 0.2;

export function advice(v: Verdict): string {
  if (v.criterion === "bite" || v.criterion === "alignment") return v.why;
  const own = ADVICE[v.criterion];
  if (own && v.status !== "meets" && v.status !== "not-measured") return own;
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
