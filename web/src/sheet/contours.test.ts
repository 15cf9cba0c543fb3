import { describe, expect, it } from "vitest";
import { contourNumbers } from "./contours";

/** A flat strip along x whose count is x / 10. */
function strip(length: number) {
  const positions: number[] = [];
  const indices: number[] = [];
  for (let x = 0; x <= length; x += 0.5) positions.push(x, 0, 0, x, 1, 0);
  for (let k = 0; k < positions.length / 3 - 2; k += 2) indices.push(k, k + 2, k + 1, k + 1, k + 2, k + 3);
  const counted = new Float32Array(positions.filter((_, k) => k % 3 === 0).map((x) => x / 10));
  const normals = positions.map((_, k) => (k % 3 === 2 ? 1 : 0));
  return { positions, normals, indices, counted };
}

describe("numbers on contour lines", () => {
  it("stand where the count has their value", () => {
    const rows = contourNumbers(strip(4), 0.1);
    expect(new Set(rows.map((r) => r.text))).toEqual(new Set(["0.1", "0.2", "0.3", "0.4"]));
    for (const row of rows) expect(row.place[0] / 10).toBeCloseTo(Number(row.text), 5);
    expect(rows[0]!.normal).toEqual([0, 0, 1]);
  });

  it("are none at nought, and none where nothing is counted", () => {
    expect(contourNumbers(strip(0.5), 0.1)).toEqual([]);
    const unknown = strip(4);
    unknown.counted.fill(NaN);
    expect(contourNumbers(unknown, 0.1)).toEqual([]);
  });

  it("are one a line within reach of each other", () => {
    expect(contourNumbers(strip(4), 0.1).filter((r) => r.text === "0.2")).toHaveLength(1);
  });
});
