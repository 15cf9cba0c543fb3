import { describe, expect, it } from "vitest";
import type { Vec } from "../../sheet/vectors";
import type { Frame } from "../../sheet/views";
import { cutOffset, cutTowards, overLine, planeOf, type Cut } from "./section";

const frame: Frame = { occlusal: [0, 0, 1], facial: [0, 1, 0], mesial: [1, 0, 0] };
const centre: Vec = [1, 2, 3];

describe("the crown in a section", () => {
  it("bounds nothing where the finish line does not cross", () => expect(overLine([])).toBe(""));

  it("is bounded from below by the finish line's two ends", () => {
    const shape = overLine([
      [-4, 0.5],
      [4, 1.5],
    ]);
    expect(shape).toContain("L-4.000 -0.500L4.000 -1.500");
    expect(shape.endsWith("Z")).toBe(true);
  });
});

describe("a section dragged on the sheet", () => {
  it.each([0, 35, 90, 140])("goes through the place that it is moved to, turned by %i", (angle_deg) => {
    const place: Vec = [2.3, 3.1, 7];
    const cut = cutOffset({ angle_deg, offset_mm: 0 }, place, frame, centre);
    const { origin, normal } = planeOf(cut, frame, centre);
    const off = place.reduce((sum, v, k) => sum + (v - origin[k]!) * normal[k]!, 0);
    expect(Math.abs(off)).toBeLessThan(0.051); // tenths
    expect(cut.angle_deg).toBe(angle_deg);
  });

  it("never leaves the tooth", () => {
    expect(Math.abs(cutOffset({ angle_deg: 0, offset_mm: 0 }, [99, 2, 3], frame, centre).offset_mm)).toBe(6);
  });

  it("runs towards the place that its end is turned to, either way round", () => {
    const cut: Cut = { angle_deg: 0, offset_mm: 1 };
    expect(cutTowards(cut, [6, 7, 3], frame, centre)).toEqual({ angle_deg: 45, offset_mm: 1 });
    expect(cutTowards(cut, [-4, -3, 3], frame, centre).angle_deg).toBe(45);
    expect(cutTowards(cut, [6, -3, 3], frame, centre).angle_deg).toBe(135);
    expect(cutTowards({ ...cut, level: true }, [6, 7, 3], frame, centre).angle_deg).toBe(0);
  });
});
