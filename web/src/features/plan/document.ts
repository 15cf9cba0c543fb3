/** The parts of a plan document (`vane-line/plan/1`) that the screens read. */
export interface BurUse {
  id: string;
  title: string;
  size: string;
  words: string;
  beyond: string;
}
export interface Site {
  zone: string;
  where: string;
  at: number[];
  min_mm: number;
  target_mm: number;
  max_mm: number;
  source: string;
  gap_mm: number;
  depth_mm: number | null;
  most_mm: number | null;
  nothing_to_cut: boolean;
  bur: BurUse | null;
  why: string;
}
export interface Ledge {
  side: string;
  width_mm: number;
  min_mm: number;
  max_mm: number;
  forms: string[];
  bur: BurUse | null;
}
export interface Step {
  title: string;
  view: string;
  depth: string;
  bur: string;
  check: string;
  caution: string;
}
export interface PlanDocument {
  tooth: string;
  standard: { id: string; version: number; title: string };
  earlier: { name: string; title: string; space_to: string };
  frame: { occlusal: number[]; facial: number[]; mesial: number[]; centre: number[]; path: number[] };
  functional_side: { side: string; source: string };
  lift_mm: number;
  raise: null | {
    first_molar_mm: number;
    incisor_mm: number;
    tooth_mm: number;
    u_mm: number;
    rule_of_thumb_incisor_mm: number;
    by_place_mm: Record<string, number>;
    hinge: { back_mm: number; up_mm: number; entered: boolean };
    why_they_differ: string;
  };
  sites: Site[];
  finish_line: { points: number[][]; above_gingiva_mm: number; seen: boolean[]; sides: Ledge[] };
  taper_deg: number;
  capture: { where: string; why: string; do: string }[];
  predicted: null | {
    faciolingual_deg: number | null;
    mesiodistal_deg: number | null;
    wall_height_mm: number | null;
    remaining_mm: number | null;
    neck_mm: number | null;
    resists: boolean | null;
  };
  ways_out: {
    criterion: string;
    where: string;
    value: number | null;
    limit: number | null;
    unit: string;
    do: string;
  }[];
  why_no_target: string;
  sequence: { id: string; title: string; reason: string; steps: Step[] };
  reminder: string;
  warnings: string[];
}

/** What a depth reads on a label: nothing to cut is said, an unknown depth is a dash. */
export function depthText(site: Pick<Site, "depth_mm" | "nothing_to_cut">): string {
  if (site.depth_mm === null) return "–";
  return site.nothing_to_cut ? "0" : site.depth_mm.toFixed(1);
}

/** Sides with the same ledge told together. */
export function ledgesTold(sides: Ledge[]): Ledge[] {
  const rows: Ledge[] = [];
  for (const side of sides) {
    const same = rows.find(
      (r) =>
        r.width_mm === side.width_mm && r.bur?.id === side.bur?.id && r.forms.join() === side.forms.join(),
    );
    if (same) same.side += `, ${side.side}`;
    else rows.push({ ...side });
  }
  return rows.length === 1 ? [{ ...rows[0]!, side: "all round" }] : rows;
}

/** Whether a standard was written for such a tooth; full metal serves them all. */
export function serves(standard: { id: string; teeth: string }, tooth: string): boolean {
  const place = tooth[1] ?? "6";
  if (standard.teeth === "canine") return place === "3";
  const front = "123".includes(place);
  return standard.teeth === "front" ? front : !front || standard.id === "full-metal";
}

export const MEANINGS = [
  {
    value: "natural",
    label: "Natural tooth, its form is kept",
    hint: "depth of cut is tooth removed, and space",
  },
  {
    value: "short",
    label: "Worn, or short of the bite",
    hint: "the crown is built up to the bite: an existing gap counts and is not cut again",
  },
  {
    value: "copied-crown",
    label: "Old crown, its form is copied",
    hint: "space to the old contour counts; how much is tooth is not known",
  },
  {
    value: "old-crown",
    label: "Old crown, its form is not kept",
    hint: "depth tells nothing: only the space to the opposing teeth counts",
  },
] as const;

export const OPENINGS = [
  { value: "", label: "Bite as it is" },
  ...["0.5", "1", "1.5", "2"].map((v) => ({
    value: `${v}@molar`,
    label: `Raised ${v} mm at the first molars`,
  })),
  ...["1", "2", "3"].map((v) => ({ value: `${v}@incisor`, label: `Raised ${v} mm at the incisors` })),
];
