import { describe, expect, it } from "vitest";
import { doubtfulRuns, pathOf, rosePath, rosePoint, roseRadius, stripPath, tiltOf } from "./form";
import type { LineSample } from "../../api/client";

const sample = (azimuth_deg: number, change: Partial<LineSample> = {}): LineSample => ({
  s_mm: 0, azimuth_deg, width_mm: 1, cavosurface_deg: 90, inner_radius_mm: 0.5, lip_mm: 0, height_mm: 0, form: "shoulder", defined: true, ...change,
}); // prettier-ignore
const row = (azimuth_deg: number, taper_deg: number | null) => ({
  azimuth_deg, taper_deg, wall_height_mm: 4, second_plane_deg: null,
}); // prettier-ignore

describe("rose", () => {
  it("puts nought between leaning back and tapering, and stays within its rim", () => {
    expect(roseRadius(-3)).toBeLessThan(roseRadius(0));
    expect(roseRadius(6)).toBeGreaterThan(roseRadius(0));
    expect(roseRadius(80)).toBe(100);
    expect(roseRadius(-80)).toBe(0);
  });

  it("has facial up and mesial as the tooth is seen", () => {
    expect(rosePoint(0, 50, true)).toEqual([0, -50]);
    expect(rosePoint(90, 50, true)[0]).toBeCloseTo(50);
    expect(rosePoint(90, 50, false)[0]).toBeCloseTo(-50);
  });

  it("breaks where no wall is seen", () => {
    const path = rosePath([row(0, 6), row(90, null), row(180, 6), row(270, 6)], true);
    expect(path.match(/M/g)).toHaveLength(2);
    expect(rosePath([], true)).toBe("");
  });
});

describe("strip", () => {
  it("draws what is told and breaks where it is not", () => {
    const samples = [sample(0), sample(1), sample(2, { width_mm: null }), sample(3)];
    expect(stripPath(samples, (s) => s.width_mm)).toBe("M0.0 1.00L1.0 1.00M3.0 1.00");
  });

  it("finds the doubtful stretches, the last one to the end", () => {
    const samples = [sample(0), sample(10, { defined: false }), sample(20), sample(350, { defined: false })];
    expect(doubtfulRuns(samples)).toEqual([[10, 20], [350, 360]]); // prettier-ignore
  });
});

describe("path", () => {
  it("leans as typed, and reads back the same", () => {
    const frame = { occlusal: [0, 0, 1], facial: [0, 1, 0], mesial: [-1, 0, 0] } as const;
    const axes = {
      occlusal: [...frame.occlusal],
      facial: [...frame.facial],
      mesial: [...frame.mesial],
    } as never;
    const path = pathOf({ mesial: 12, facial: -4 }, axes);
    expect(path[0]).toBeLessThan(0);
    expect(tiltOf(path, axes).mesial).toBeCloseTo(12);
    expect(tiltOf(path, axes).facial).toBeCloseTo(-4);
  });
});
