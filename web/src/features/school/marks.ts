import type { ClassRow, LookDocument, MarkDocument } from "../../api/client";

/** What an eye can say of a place, and the word on its button. */
export const SAID = [
  { value: "short", label: "too little cut" },
  { value: "over", label: "too much cut" },
  { value: "undercut", label: "undercut" },
  { value: "tapered", label: "too tapered" },
  { value: "line", label: "finish line" },
  { value: "sharp", label: "sharp edge" },
  { value: "neighbour", label: "neighbour" },
] as const;
export const wordOf = (said: string) => SAID.find((s) => s.value === said)?.label ?? said;
export const AMOUNTS = [0.1, 0.2, 0.3, 0.5, 0.8, 1.0];

/** A mark as it is read: the number, and what else it could be within the uncertainty. */
export function markText(mark: MarkDocument | null): string {
  if (mark?.mark == null) return "–";
  return mark.mark.toFixed(0);
}
export function rangeText(mark: MarkDocument | null): string {
  if (mark?.low == null || mark.high == null) return "";
  const [low, high] = [mark.low.toFixed(0), mark.high.toFixed(0)];
  return low === high ? "" : `${low} to ${high}`;
}
/** The grade, with a question where it could be another. */
export function gradeText(mark: MarkDocument | null): string {
  if (!mark?.grade) return "";
  return mark.could_be.length > 1 ? `${mark.grade} ?` : mark.grade;
}
export function lookText(look: LookDocument | null): string {
  if (!look) return "";
  return `${look.seen.length} of ${look.seen.length + look.missed.length}`;
}

const byMark = (row: ClassRow) => row.overrule?.mark ?? row.mark?.mark ?? -1;
export const ORDERS = [
  { value: "code", label: "by code" },
  { value: "mark", label: "best first" },
  { value: "worst", label: "weakest first" },
];
/** The class in an order of its own; what has no mark yet stands last. */
export function ordered(rows: ClassRow[], order: string): ClassRow[] {
  const sorted = [...rows].sort((a, b) => a.code.localeCompare(b.code));
  if (order === "mark") return sorted.sort((a, b) => byMark(b) - byMark(a));
  if (order === "worst")
    return sorted.sort((a, b) => (byMark(a) < 0 ? 1 : byMark(b) < 0 ? -1 : byMark(a) - byMark(b)));
  return sorted;
}
