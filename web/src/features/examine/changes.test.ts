import { describe, expect, it } from "vitest";
import { fromTo, summary, type Change } from "./changes";

const row = (state: Change["state"], more: Partial<Change> = {}): Change => ({
  criterion: "reduction",
  title: "reduction",
  zone: "central-groove",
  bound: "min",
  where: "central groove",
  unit: "mm",
  before: 0.61,
  after: 1.24,
  change: 0.63,
  U: 0.04,
  limit: 1,
  missing: -0.24,
  at: null,
  state,
  ...more,
});

describe("what a pass changed", () => {
  it("is summed up with the good news first, and plain changes left out", () => {
    expect(summary([row("new"), row("mended"), row("mended"), row("changed")])).toBe("2 corrected, 1 new");
    expect(summary([row("changed")])).toBe("no fault corrected, none new");
  });

  it("is told from value to value, with a dash for what was not measured", () => {
    expect(fromTo(row("mended"))).toBe("0.61 → 1.24 mm");
    expect(fromTo(row("mended", { after: null }))).toBe("0.61 → – mm");
    expect(fromTo(row("still", { unit: "deg", before: 24.4, after: 24.6 }))).toBe("24 → 25 deg");
  });
});
