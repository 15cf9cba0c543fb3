import { describe, expect, it } from "vitest";
import { slip, tight } from "./state.svelte";

const row = (min: number, target: number, max: number, source = "common practice, no source") => ({
  min,
  target,
  max,
  source,
});

describe("figures as they are typed", () => {
  it("names the rule that a row breaks", () => {
    expect(slip(row(1, 1.5, 2))).toBe("");
    expect(slip(row(1.6, 1.5, 2))).toContain("min < target");
    expect(slip(row(1, 1.5, 1.4))).toContain("target ≤ max");
    expect(slip(row(1000, 1500, 2000))).toContain("mm");
    expect(slip(row(1, 1.5, 2, " "))).toContain("source");
    expect(slip(row(Number.NaN, 1.5, 2))).toContain("Three numbers");
  });
  it("says where a hand cannot hit between minimum and target", () => {
    expect(tight(row(0.3, 0.4, 0.5))).toBe(true);
    expect(tight(row(1, 1.2, 1.5))).toBe(false);
  });
});
