import { describe, expect, it } from "vitest";
import type { BridgeDocument, Measured } from "../../api/client";
import { answerOf, apart, bySide, draftsAlong, leastDraft, wallsOf } from "./draft";

/** A cone of six degrees a wall about the z axis; facial y, mesial x or -x. */
const cone = (taper: number, mesial: [number, number, number]) =>
  ({
    path: { direction: [0, 0, 1] },
    frame: { facial: [0, 1, 0], mesial, occlusal: [0, 0, 1] },
    convergence: {
      by_azimuth: Array.from({ length: 180 }, (_, k) => ({ azimuth_deg: 2 * k, taper_deg: taper })),
    },
  }) as unknown as Measured;

describe("walls along another path", () => {
  it("have their own taper along their own path, on either side of the mouth", () => {
    for (const mesial of [
      [1, 0, 0],
      [-1, 0, 0],
    ] as [number, number, number][]) {
      const rows = draftsAlong(wallsOf(cone(6, mesial)), [0, 0, 1]);
      expect(rows).toHaveLength(180);
      for (const row of rows) expect(row.taper_deg).toBeCloseTo(6, 6);
      expect(leastDraft(rows)).toBeCloseTo(6, 6);
    }
  });

  it("lose on the side away from which the path leans what they win on the other", () => {
    const lean = (4 * Math.PI) / 180;
    // Towards mesial: the mesial wall hangs over by 4 less, the distal one has 4 more.
    const rows = draftsAlong(wallsOf(cone(6, [-1, 0, 0])), [-Math.sin(lean), 0, Math.cos(lean)]);
    const at = (azimuth: number) => rows.find((row) => row.azimuth_deg === azimuth)!.taper_deg!;
    expect(at(90)).toBeCloseTo(10, 4);
    expect(at(270)).toBeCloseTo(2, 4);
    const sides = bySide(rows);
    expect(sides.distal!).toBeLessThan(sides.facial!);
    expect(sides.facial!).toBeLessThan(sides.mesial!);
  });

  it("says nothing of walls that nobody saw", () => {
    const none = { ...cone(6, [1, 0, 0]), convergence: null } as unknown as Measured;
    expect(wallsOf(none)).toEqual([]);
    expect(leastDraft([])).toBeNull();
    expect(bySide([]).mesial).toBeNull();
  });
});

describe("the answer for the whole", () => {
  const path = (exists: boolean) => ({
    exists,
    least_draft_deg: exists ? 2.34 : -3,
    limited_by: exists ? [] : [{ tooth: "37", side: "mesial", missing_deg: 3.04 }],
  });
  it("names the draft, or the wall and its degrees", () => {
    expect(answerOf({ path: path(true) } as unknown as BridgeDocument)).toBe(
      "One path for all: least draft 2.3°",
    );
    expect(answerOf({ path: path(false) } as unknown as BridgeDocument)).toBe(
      "No common path: the mesial wall of 37 lacks 3.0°",
    );
  });
  it("knows how far two directions lie apart", () => {
    expect(apart([0, 0, 1], [0, 1, 1])).toBeCloseTo(45, 6);
  });
});
