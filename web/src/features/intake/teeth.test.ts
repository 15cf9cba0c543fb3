import { describe, expect, it } from "vitest";
import { plainFacts, PRIMARY_ROWS, ROWS } from "./teeth";

describe("teeth", () => {
  it("stand in two rows of sixteen, the patient's right on the operator's left", () => {
    expect(ROWS.map((r) => r.length)).toEqual([16, 16]);
    expect(new Set(ROWS.flat()).size).toBe(32);
    expect(ROWS[0]![0]).toBe("18");
    expect(ROWS[1]!.at(-1)).toBe("38");
  });

  it("of a child stand in two rows of ten, none of them among the permanent ones", () => {
    expect(PRIMARY_ROWS.map((r) => r.length)).toEqual([10, 10]);
    expect(PRIMARY_ROWS.flat().filter((t) => ROWS.flat().includes(t))).toEqual([]);
    expect(PRIMARY_ROWS[0]![0]).toBe("55");
  });
});

describe("a scan's facts", () => {
  it("are one plain line with units", () => {
    const line = plainFacts({
      format: "PLY", triangles: 120345, size_mm: [40.2, 20.6, 12], holes: 1, pieces: 2, edge_median_mm: 0.123,
      noise_um: 7.6, colour: true,
    }); // prettier-ignore
    expect(line).toBe(
      "PLY · 120,345 triangles · 40 × 21 × 12 mm · edges 0.12 mm · 1 hole · 2 pieces · noise about 8 µm · with colour",
    );
  });
});
