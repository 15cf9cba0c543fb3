import type { DepthSite, Ledge } from "../../api/client";

/** What a depth reads on a label: nothing to cut is said, an unknown depth is a dash. */
export function depthText(site: Pick<DepthSite, "depth_mm" | "nothing_to_cut">): string {
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

/** Of figures in mm those that are told, each under its words. */
export function figuresTold(rows: readonly (readonly [string, number | null | undefined])[]) {
  return rows.flatMap(([what, mm]) => (mm == null ? [] : [{ what, mm }]));
}
