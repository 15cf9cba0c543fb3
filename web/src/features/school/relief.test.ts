import { describe, expect, it } from "vitest";
import { middleOf, nearestTo, toldAt } from "./relief";

const positions = new Float32Array([0, 0, 0, 10, 0, 0, 10, 10, 0]);

describe("what the class did at a place", () => {
  const of = (...values: number[]) => new Float32Array(values);
  const fields = {
    depth: of(NaN, 1.25, 0.5),
    least: of(NaN, 1.5, NaN),
    most: of(NaN, 2, 2),
    short: of(NaN, 0.75, 0),
    over: of(NaN, 0, 0.25),
  };

  it("is nothing where too few tell, and has no least where none is asked", () => {
    expect(toldAt(fields, 0)).toEqual({ depth: null, least: null, short: 0, over: 0 });
    expect(toldAt(fields, 1)).toEqual({ depth: 1.25, least: 1.5, short: 0.75, over: 0 });
    expect(toldAt(fields, 2)).toEqual({ depth: 0.5, least: null, short: 0, over: 0.25 });
  });

  it("is read at the nearest vertex, and looked at from where something is told", () => {
    expect(nearestTo(positions, [9, 2, 1])).toBe(1);
    expect(middleOf(positions, fields.depth)).toEqual([10, 5, 0]);
    expect(middleOf(positions, of(NaN, NaN, NaN))[0]).toBeCloseTo(20 / 3);
  });
});
