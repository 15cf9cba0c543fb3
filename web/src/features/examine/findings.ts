import type { Place, Result, Verdict } from "../../api/client";

/** A verdict as it is listed: worded by the server. */
export interface Finding extends Verdict {
  title: string;
  lens: string | null;
  amount: string;
  says: string;
  advice: string;
}
/** One row: a place on the tooth, its gravest finding first. */
export interface Row {
  where: string;
  concern: string;
  findings: Finding[];
}

type Line = Result["report"]["findings"][number];

/** The lines of a report with the verdicts that they are about; one that names no verdict is left out. */
export function listed(lines: Line[], verdicts: Verdict[]): Finding[] {
  return lines.flatMap((line) => {
    const verdict = verdicts[line.verdict];
    return verdict ? [{ ...verdict, ...line }] : [];
  });
}

/** Places with their findings, in the order in which the server put them. */
export function rowsOf(places: Place[], findings: Finding[]): Row[] {
  return places.flatMap((place) => {
    const found = place.findings.flatMap((k) => findings[k] ?? []);
    return found.length ? [{ where: place.where, concern: place.concern, findings: found }] : [];
  });
}
