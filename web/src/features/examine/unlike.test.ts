import { describe, expect, it } from "vitest";
import type { Veneers } from "../../api/client";
import { edgesDrawn, type Unlike, unlikeWords } from "./unlike";

const row = (what: Unlike["what"], difference_mm: number, zone: string | null = null): Unlike => ({
  right: "11",
  left: "21",
  what,
  zone,
  right_mm: 1 + difference_mm,
  left_mm: 1,
  difference_mm,
  u_mm: 0.05,
  proven: true,
});

describe("what two sides have unlike", () => {
  it("names the tooth that has less room, whichever side it is on", () => {
    expect(unlikeWords(row("thickness", -0.12, "facial/middle"))).toBe(
      "middle third: 11 has 0.12 mm less room than 21",
    );
    expect(unlikeWords(row("thickness", 0.12, "facial/middle"))).toContain(
      "21 has 0.12 mm less room than 11",
    );
  });
  it("names the tooth that less was taken off", () => {
    expect(unlikeWords(row("tooth-removed", 0.2, "facial/cervical"))).toBe(
      "cervical third: 0.20 mm less was taken off 21 than off 11",
    );
  });
  it("calls the edge that lies further below the highest one shorter", () => {
    expect(unlikeWords(row("planned-edge", -0.3))).toBe("edge: 21 is to end 0.30 mm shorter than 11");
  });
  it("names the edge with less room, and the one that is lengthened less", () => {
    expect(unlikeWords(row("room-at-edge", 0.3))).toBe("edge: 21 has 0.30 mm less room than 11");
    expect(unlikeWords(row("longer", -0.3))).toBe("edge: 11 is lengthened by 0.30 mm less than 21");
  });
});

it("lays the edges before on one line, the planned ones over it and the cut ones under their own", () => {
  const teeth = [
    { longer_mm: 1, room_mm: 2 },
    { longer_mm: 0.5, room_mm: 1.5 },
    { longer_mm: null, room_mm: null },
  ];
  expect(edgesDrawn({ teeth } as unknown as Veneers, 10)).toEqual([
    { before: 10, planned: 0, cut: 20 },
    { before: 10, planned: 5, cut: 20 },
    { before: null, planned: 10, cut: null },
  ]);
});
