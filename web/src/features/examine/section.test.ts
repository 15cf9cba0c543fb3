import { describe, expect, it } from "vitest";
import type { Vec } from "../../sheet/vectors";
import { crossings, overLine } from "./section";

const ring = Array.from({ length: 72 }, (_, k) => {
  const a = (k * 5 * Math.PI) / 180;
  return [5 * Math.sin(a), 4 * Math.cos(a), 1 + 0.5 * Math.cos(a)];
});
const plane = { origin: [0, 0, 0] as Vec, normal: [1, 0, 0] as Vec };

describe("the finish line in a section", () => {
  it("goes through the plane on both sides, at its own heights", () => {
    const [lingual, facial] = crossings(ring, plane, [0, 1, 0], [0, 0, 1]) as [number[], number[]];
    expect(lingual[0]).toBeCloseTo(-4, 1);
    expect(lingual[1]).toBeCloseTo(0.5, 1);
    expect(facial[0]).toBeCloseTo(4, 1);
    expect(facial[1]).toBeCloseTo(1.5, 1);
  });

  it("is nowhere in a plane beside it, and then bounds nothing", () => {
    const beside = { ...plane, origin: [9, 0, 0] as Vec };
    expect(crossings(ring, beside, [0, 1, 0], [0, 0, 1])).toEqual([]);
    expect(overLine([])).toBe("");
  });

  it("bounds the crown from below by its own two ends", () => {
    const shape = overLine([
      [-4, 0.5],
      [4, 1.5],
    ]);
    expect(shape).toContain("L-4.000 -0.500L4.000 -1.500");
    expect(shape.endsWith("Z")).toBe(true);
  });
});
