import { describe, expect, it } from "vitest";
import type { CaseRow } from "../../api/client";
import { narrowed, ordered, when } from "./rows";

const row = (code: string, tooth: string, material: string, state: string, text: string) =>
  ({
    case: { code, sites: [{ tooth, material, restoration: "full-crown", universal: "19", readings: [] }] },
    standing: { state, text, picture: null },
    changed_at: "2026-11-26T09:00:00Z",
  }) as unknown as CaseRow;
const ROWS = [
  row("SM-0147", "36", "lithium-disilicate", "not-yet", "Not yet: 0.4 mm at the distolingual cusp"),
  row("SM-0212", "47", "zirconia", "stop", "Stop: it meets."),
  row("SM-0300", "11", "zirconia", "waiting", "waiting for its scans"),
];
const codes = (rows: CaseRow[]) => rows.map((r) => r.case.code);

describe("the list of cases", () => {
  it("finds by code, tooth, material and state, all words together", () => {
    expect(codes(narrowed(ROWS, "0147", "all"))).toEqual(["SM-0147"]);
    expect(codes(narrowed(ROWS, "zirconia 47", "all"))).toEqual(["SM-0212"]);
    expect(codes(narrowed(ROWS, "lithium-disilicate", "all"))).toEqual(["SM-0147"]);
    expect(codes(narrowed(ROWS, "distolingual", "all"))).toEqual(["SM-0147"]);
    expect(codes(narrowed(ROWS, "  ", "all"))).toHaveLength(3);
    expect(narrowed(ROWS, "zirconia 36", "all")).toEqual([]);
  });

  it("narrows to what is still to be done, what is met and what waits", () => {
    expect(codes(narrowed(ROWS, "", "open"))).toEqual(["SM-0147"]);
    expect(codes(narrowed(ROWS, "", "met"))).toEqual(["SM-0212"]);
    expect(codes(narrowed(ROWS, "", "waiting"))).toEqual(["SM-0300"]);
    expect(codes(narrowed(ROWS, "", "no such filter"))).toHaveLength(3);
  });

  it("stands in the order that was asked for, the newest change first unless another", () => {
    const rows = ROWS.map((r, k) => ({ ...r, changed_at: `2026-11-2${k}T09:00:00Z` }));
    expect(codes(ordered(rows, "changed"))).toEqual(["SM-0300", "SM-0212", "SM-0147"]);
    expect(codes(ordered(rows, "standing"))).toEqual(["SM-0147", "SM-0300", "SM-0212"]);
    expect(codes(ordered(rows, "code"))).toEqual(["SM-0147", "SM-0212", "SM-0300"]);
    expect(codes(ordered(rows, "tooth"))).toEqual(["SM-0300", "SM-0147", "SM-0212"]);
    expect(codes(ordered(rows, "no such order"))).toEqual(codes(ordered(rows, "changed")));
  });

  it("writes today's changes with their hour, others with their day", () => {
    const now = new Date("2026-11-26T12:00:00");
    expect(when("2026-11-26T09:30:00", now)).toBe("today, 09:30");
    expect(when("2026-11-02T09:30:00", now)).toContain("Nov 2026");
  });
});
