import type { Result } from "../../api/client";

/** A verdict of the measurement's document. */
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

/** A verdict as it is listed: worded and sorted by the server. */
export interface Finding extends Verdict {
  title: string;
  lens: LensName;
  amount: string;
  says: string;
  advice: string;
}

type Line = Result["report"]["findings"][number];

/** The lines of a report with the verdicts that they are about. */
export function listed(lines: Line[], verdicts: Verdict[]): Finding[] {
  return lines.flatMap((line) => {
    const verdict = verdicts[line.verdict];
    const lens = LENS_NAMES.find((name) => name === line.lens) ?? "depth";
    return verdict ? [{ ...verdict, ...line, lens }] : [];
  });
}
