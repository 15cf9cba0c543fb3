import type { Career } from "../../api/client";

/** "short 7 of 8, by 0.3 mm": a place that is at fault again and again. */
export function againText(row: Career["again"][number]): string {
  const how = row.bound === "min" ? "short" : "over";
  const by =
    row.amount === null || !row.unit.startsWith("mm") ? "" : `, by ${row.amount.toFixed(1)} ${row.unit}`;
  return `${how} ${row.at_fault} of ${row.seen}${by}`;
}

/** How many teeth met everything after so many passes; 0 passes: not yet, and last. */
export function passesOf(ways: Career["ways"]): { passes: number; teeth: number }[] {
  const counts: Record<number, number> = {};
  for (const way of ways) counts[way.met_after ?? 0] = (counts[way.met_after ?? 0] ?? 0) + 1;
  const rows = Object.entries(counts).map(([passes, teeth]) => ({ passes: Number(passes), teeth }));
  return rows.sort((a, b) => (a.passes || 99) - (b.passes || 99));
}

/** The last cases' depths against those before, in a sentence; "" of too few. */
export function moved(career: Pick<Career, "recent_mm" | "before_mm">): string {
  const { recent_mm: now, before_mm: then } = career;
  if (now === null || then === null) return "";
  const off = (mm: number) =>
    Math.abs(mm) < 0.05
      ? "on target"
      : `${Math.abs(mm).toFixed(1)} mm ${mm < 0 ? "short of" : "past"} target`;
  return `The last five: ${off(now)}; the five before: ${off(then)}.`;
}
