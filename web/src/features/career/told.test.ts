import { describe, expect, it } from "vitest";
import { againText, moved, passesOf } from "./told";

const row = {
  criterion: "reduction",
  title: "reduction",
  where: "lingual cusp",
  likely: 0.5,
  seen: 8,
  at_fault: 7,
};

describe("the log of a career in words", () => {
  it("says how often and by how much", () => {
    expect(againText({ ...row, bound: "min", unit: "mm", amount: 0.31 })).toBe("short 7 of 8, by 0.3 mm");
    expect(againText({ ...row, bound: "max", unit: "deg", amount: 3 })).toBe("over 7 of 8");
    expect(againText({ ...row, bound: "max", unit: "mm", amount: null })).toBe("over 7 of 8");
  });
  it("counts passes, those that do not meet yet last", () => {
    const way = (met_after: number | null) => ({ code: "a", tooth: "36", passes: 3, met_after });
    expect(passesOf([way(2), way(null), way(1), way(2)])).toEqual([
      { passes: 1, teeth: 1 },
      { passes: 2, teeth: 2 },
      { passes: 0, teeth: 1 },
    ]);
  });
  it("compares the last five with the five before", () => {
    expect(moved({ recent_mm: -0.02, before_mm: -0.31 })).toBe(
      "The last five: on target; the five before: 0.3 mm short of target.",
    );
    expect(moved({ recent_mm: 0.2, before_mm: null })).toBe("");
  });
});
