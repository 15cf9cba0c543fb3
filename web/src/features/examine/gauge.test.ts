import { describe, expect, it } from "vitest";
import { gaugeMarks } from "./gauge";
import { cutThrough, path, planeOf } from "./section";
import type { Frame } from "../../sheet/views";

describe("gauge", () => {
  it("puts every mark in its order between the ends", () => {
    const m = gaugeMarks({ value: 0.6, U: 0.05, min: 1, target: 1.5, max: 2 });
    const marks = [m.from, m.value, m.to, m.min!, m.target!, m.max!];
    expect(marks).toEqual([...marks].sort((a, b) => a - b));
    expect(m.max).toBeLessThan(1);
    expect(m.from).toBeGreaterThan(0);
  });

  it("reaches below nought for what cuts through", () => {
    const m = gaugeMarks({ value: -0.4, U: 0.1, min: 1, target: null, max: null });
    expect(m.label.low).toBe("-0.5");
    expect(m.value).toBeGreaterThan(0);
    expect(m.target).toBeNull();
  });
});

const frame: Frame = { occlusal: [0, 0, 1], facial: [0, 1, 0], mesial: [1, 0, 0] };

describe("section", () => {
  it("cuts from facial to lingual at 0 and from mesial to distal at 90", () => {
    expect(planeOf({ angle_deg: 0, offset_mm: 0 }, frame, [0, 0, 0]).along).toEqual([0, 1, 0]);
    const across = planeOf({ angle_deg: 90, offset_mm: 2 }, frame, [0, 0, 0]);
    expect(across.along[0]).toBeCloseTo(1);
    expect(Math.abs(across.origin[1])).toBeCloseTo(2);
  });

  it("goes through the place it was asked for", () => {
    for (const place of [
      [3, 1, 2],
      [1, -4, 1],
      [-2, 3, 0],
    ] as [number, number, number][]) {
      const cut = cutThrough(place, frame, [0, 0, 0]);
      const { origin, normal } = planeOf(cut, frame, [0, 0, 0]);
      const off = place.reduce((sum, x, k) => sum + (x - origin[k]!) * normal[k]!, 0);
      expect(Math.abs(off)).toBeLessThan(0.051);
    }
  });

  it("draws up as up", () => {
    expect(path([[0, 0], [1, 2]])).toBe("M0.000 0.000L1.000 -2.000"); // prettier-ignore
  });
});
