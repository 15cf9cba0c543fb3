import { describe, expect, it } from "vitest";
import type { Lens } from "../../api/client";
import type { Reading } from "../../sheet/worn";
import { readingText } from "./reading";

const lens = (reads: string) => ({ name: "depth", reads }) as Lens;
const at = (more: Partial<Reading>): Reading => ({
  place: [0, 0, 0],
  value: 0.618,
  low: 1,
  high: 2,
  unseen: false,
  ...more,
});

describe("a value under the pointer", () => {
  it("reads in the lens's words, to a hundredth", () => {
    expect(readingText(lens("{value} cut, {low} needed, ± {U}"), at({}), 0.031, 0)).toBe(
      "0.62 cut, 1.00 needed, ± 0.03 mm",
    );
  });

  it("counts an undercut down from nought, and never below it", () => {
    const words = "{depth} under the overhang, {allowed} allowed";
    expect(readingText(lens(words), at({ value: -0.127 }), 0.03, 0.05)).toBe(
      "0.13 under the overhang, 0.05 allowed mm",
    );
    expect(readingText(lens(words), at({ value: 0.2 }), 0.03, 0.05)).toContain("0.00 under");
  });

  it("says what was never seen, and nothing where nothing is known", () => {
    expect(readingText(lens("{value} cut"), at({ unseen: true }), 0.03, 0)).toContain("never seen");
    expect(readingText(lens("{value} cut"), at({ value: null }), 0.03, 0)).toBe("");
    expect(readingText(lens(""), at({}), 0.03, 0)).toBe("");
    expect(readingText(null, at({}), 0.03, 0)).toBe("");
    expect(readingText(lens("{value} cut, {low} needed"), at({ low: null }), 0.03, 0)).toContain(
      "nothing needed",
    );
  });
});
