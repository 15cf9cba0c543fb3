import type { CaseRow } from "../../api/client";
import { teethOf } from "../site";

type State = CaseRow["standing"]["state"];

/** What the list can be narrowed to: each a few states of a case, in the words of the work. */
export const FILTERS: { value: string; label: string; states: State[] }[] = [
  { value: "all", label: "All cases", states: [] },
  { value: "open", label: "Not yet met", states: ["not-yet", "cannot-say", "nothing", "failed"] },
  { value: "met", label: "Met, or nothing more to cut", states: ["stop", "cut-no-more"] },
  { value: "waiting", label: "Waiting: planned, or for scans", states: ["planned", "waiting", "unmeasured"] },
  { value: "measuring", label: "Being measured", states: ["measuring"] },
];

/** Rows whose code, tooth, material or state has all the words that were typed, of the states chosen. */
export function narrowed(rows: CaseRow[], typed: string, filter: string): CaseRow[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const states = FILTERS.find((f) => f.value === filter)?.states ?? [];
  return rows.filter((row) => {
    if (states.length && !states.includes(row.standing.state)) return false;
    const sites = row.case.sites;
    const said = [row.case.code, teethOf(row.case), ...sites.map((s) => `${s.material} ${s.restoration} ${s.universal}`), row.standing.text]
      .join(" ")
      .replaceAll("-", " ")
      .toLowerCase(); // prettier-ignore
    return words.every((word) => said.includes(word.replaceAll("-", " ")));
  });
}

// What is gravest first: what cannot be said stands beside what is not met yet.
const GRAVE: State[] = ["not-yet", "cannot-say", "failed", "nothing", "cut-no-more", "measuring", "unmeasured", "waiting", "planned", "stop"]; // prettier-ignore
const byText = (a: string, b: string) => a.localeCompare(b, "en", { numeric: true });

/** What the list can be put in order by. */
export const SORTS: { value: string; label: string; order: (a: CaseRow, b: CaseRow) => number }[] = [
  { value: "changed", label: "Last changed first", order: (a, b) => byText(b.changed_at, a.changed_at) },
  {
    value: "standing",
    label: "Not yet met first",
    order: (a, b) => GRAVE.indexOf(a.standing.state) - GRAVE.indexOf(b.standing.state),
  },
  { value: "code", label: "By code", order: (a, b) => byText(a.case.code, b.case.code) },
  { value: "tooth", label: "By tooth", order: (a, b) => byText(teethOf(a.case), teethOf(b.case)) },
];

/** The rows in an order; those that are alike in it stay as they were. */
export function ordered(rows: CaseRow[], by: string): CaseRow[] {
  return [...rows].sort((SORTS.find((s) => s.value === by) ?? SORTS[0]!).order);
}

/** A day and hour as people write it, in their own place. */
export function when(iso: string, now = new Date()): string {
  const at = new Date(iso);
  const time = at.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  if (at.toDateString() === now.toDateString()) return `today, ${time}`;
  return at.toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });
}
