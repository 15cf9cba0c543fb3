import { describe, expect, it } from "vitest";
import { advice, amount, attention, says, unmeasured, type Verdict } from "./findings";

const base: Verdict = {
  criterion: "reduction", zone: "functional-cusp/distal", bound: "min", value: 0.6, unit: "mm", U: 0.03, limit: 1,
  target: 1.5, status: "short", missing: 0.4, to_target: 0.9, why: "", source: "", at: [0, 0, 0], where: "distal cusp",
}; // prettier-ignore
const v = (change: Partial<Verdict>): Verdict => ({ ...base, ...change });

describe("what asks for attention", () => {
  it("keeps proven faults and doubts, in the server's order, and leaves the rest", () => {
    const rows = [
      v({}),
      v({ zone: "central-groove", status: "within-uncertainty" }),
      v({ zone: "facial-groove", status: "meets" }),
      v({ criterion: "clearance", status: "not-measured", value: null }),
    ];
    expect(attention(rows).map((r) => r.zone)).toEqual(["functional-cusp/distal", "central-groove"]);
  });

  it("does not say the same excess twice", () => {
    const over = v({ bound: "max", status: "over", value: 2.2, limit: 2, missing: -0.2 });
    const twin = { ...over, criterion: "tooth-removed" };
    expect(attention([over, twin])).toEqual([over]);
    expect(attention([twin])).toEqual([twin]);
  });

  it("lists what was not measured, save what is not built", () => {
    const rows = [
      v({ status: "not-measured", why: "the earlier scan did not see it" }),
      v({ status: "not-measured", why: "this measure is not built into this version yet" }),
    ];
    expect(unmeasured(rows)).toHaveLength(1);
  });
});

describe("words", () => {
  it("says the amount with its unit and of what", () => {
    expect(amount(base)).toBe("0.4 mm");
    expect(amount(v({ missing: 0.04 }))).toBe("0.04 mm");
    expect(amount(v({ missing: 0.01, status: "within-uncertainty" }))).toBe("?");
    expect(amount(v({ missing: -12.4, unit: "deg" }))).toBe("12°");
    expect(amount(v({ criterion: "undercut", value: 0.12, missing: -0.07, status: "over" }))).toBe("0.12 mm");
    expect(says(v({ criterion: "undercut", value: 0.12, limit: 0.05, status: "over" }))).toBe(
      "0.05 mm allowed",
    );
    expect(says(base)).toBe("short of minimum");
    expect(says(v({ status: "over", bound: "max" }))).toBe("over maximum");
  });

  it("never calls a doubt a pass or a fault", () => {
    expect(says(v({ status: "within-uncertainty", missing: 0.01 }))).toBe("doubtful: near minimum");
    expect(says(v({ status: "within-uncertainty", missing: -0.01 }))).toBe("just within minimum");
  });

  it("asks for the minimum and the target, and for nothing a hand cannot do", () => {
    expect(advice(base)).toBe("Remove 0.4 mm to reach the minimum, 0.9 mm to reach the target.");
    expect(advice(v({ missing: 0.05, to_target: 0.1 }))).toContain("Less than a hand can take off");
    expect(advice(v({ status: "over", bound: "max" }))).toContain("cut no more");
    expect(advice(v({ criterion: "clearance" }))).toContain("0.4 mm more space");
  });
});
