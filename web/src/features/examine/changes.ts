import type { Changes } from "../../api/client";

export type Change = Changes["rows"][number];

const WORDS: Record<Change["state"], string> = {
  new: "new",
  worse: "worse",
  still: "still there",
  better: "better, not enough",
  mended: "corrected",
  changed: "changed",
};
/** How a figure in a table stands out, by its verdict. */
export const FAULT_TONE: Record<string, string> = {
  short: "font-bold text-short",
  over: "font-bold text-over",
};
export const stateWord = (state: Change["state"]) => WORDS[state];

/** "6 corrected, 2 still there, 1 new": the good news first, changes without a fault left out. */
export function summary(rows: Change[]): string {
  const order: Change["state"][] = ["mended", "better", "still", "worse", "new"];
  const parts = order
    .map((state) => ({ state, count: rows.filter((r) => r.state === state).length }))
    .filter(({ count }) => count > 0)
    .map(({ state, count }) => `${count} ${WORDS[state]}`);
  return parts.length ? parts.join(", ") : "no fault corrected, none new";
}

/** "0.61 → 1.24 mm"; what was not measured is a dash. */
export function fromTo(row: Change): string {
  const digits = row.unit === "mm" || row.unit === "ratio" ? 2 : 0;
  const tell = (value: number | null) => (value === null ? "–" : value.toFixed(digits));
  return `${tell(row.before)} → ${tell(row.after)} ${row.unit === "ratio" ? "" : row.unit}`.trim();
}
