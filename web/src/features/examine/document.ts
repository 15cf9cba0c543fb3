import type { Verdict } from "./findings";
import type { LineSample, TaperRow } from "./form";

/** What the screens read of the contract's measurement document. */
export interface Correction {
  order: number;
  stage: string;
  key: string;
  where: string;
  view: string;
  do: string;
  bur: string;
  hold: string;
  beware: string;
  refused: string;
  at: number[] | null;
  to_min: number | null;
  to_target: number | null;
}

export interface Document {
  corrections: Correction[];
  tooth: string;
  standard: { id: string; version: number };
  frame: { occlusal: number[]; facial: number[]; mesial: number[]; confidence: number };
  path: { direction: number[]; least_draft_deg: number | null; source: "best" | "given" };
  alignment: Record<
    string,
    { matrix: number[][]; u_align_um: number | null; trusted: boolean; why: string } | null
  >;
  finish_line: {
    points: number[][];
    doubtful: boolean[];
    drawn: boolean[];
    bands: { from_deg: number; to_deg: number; width_mm: number }[];
    samples: LineSample[];
    steps: { azimuth_deg: number; height_mm: number }[];
    lips: { from_deg: number; to_deg: number; height_mm: number }[];
    width_mm: { low: number; median: number; high: number } | null;
  };
  convergence: {
    faciolingual_deg: number | null;
    mesiodistal_deg: number | null;
    by_azimuth: TaperRow[];
  } | null;
  clearance: { bite: { ok: boolean; note: string } } | null;
  uncertainty: { U_mm: number };
  verdicts: Verdict[];
  warnings: string[];
}
