import { describe, expect, it } from "vitest";
import type { Ledge } from "../../api/client";
import { depthText, figuresTold, ledgesTold } from "./document";

const ledge = (side: string, width_mm: number): Ledge => ({
  side,
  width_mm,
  min_mm: 0.3,
  max_mm: 1.5,
  forms: ["chamfer"],
  bur: null,
});

describe("plan words", () => {
  it("says nought where nothing is cut and a dash where the depth is not known", () => {
    expect(depthText({ depth_mm: 1.5, nothing_to_cut: false })).toBe("1.5");
    expect(depthText({ depth_mm: 0, nothing_to_cut: true })).toBe("0");
    expect(depthText({ depth_mm: null, nothing_to_cut: false })).toBe("–");
  });
  it("tells sides with the same ledge together", () => {
    expect(ledgesTold([ledge("facial", 1), ledge("mesial", 1), ledge("lingual", 1)])).toHaveLength(1);
    const two = ledgesTold([ledge("facial", 1.2), ledge("mesial", 1.2), ledge("lingual", 0.5)]);
    expect(two.map((r) => r.side)).toEqual(["facial, mesial", "lingual"]);
  });
});

describe("figures in mm", () => {
  it("leaves out what is not told, and keeps nought", () => {
    const rows = [
      ["deep", 2.5],
      ["long", null],
      ["left", undefined],
      ["over", 0],
    ] as const;
    expect(figuresTold(rows)).toEqual([
      { what: "deep", mm: 2.5 },
      { what: "over", mm: 0 },
    ]);
  });
});
