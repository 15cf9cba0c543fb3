import { describe, expect, it } from "vitest";
import { connectorBody, leaning, ponticBody } from "./bodies";

const STAND = { at: [10, 20, 30], along: [0, 1, 0], up: [0, 0, 1] };
const extent = (mesh: { positions: Float32Array }, axis: number) => {
  const values = [...mesh.positions].filter((_, k) => k % 3 === axis);
  return [Math.min(...values), Math.max(...values)] as const;
};

describe("bodies of a bridge", () => {
  const pontic = { tooth: "36", width_mm: 8, height_mm: 5, across_mm: 6, ridge_gap_mm: 1, ...STAND };
  const connector = { between: ["35", "36"], width_mm: 4, height_mm: 3, area_mm2: 9.4, ...STAND };

  it("fill the room that was measured, where it was", () => {
    const mesh = ponticBody(pontic)!;
    expect(extent(mesh, 1)[1] - extent(mesh, 1)[0]).toBeCloseTo(8, 1);
    expect(extent(mesh, 0)[1] - extent(mesh, 0)[0]).toBeCloseTo(6, 1);
    expect(extent(mesh, 2)).toEqual([27.5, 32.5]);
    const bar = connectorBody(connector)!;
    expect(extent(bar, 2)[0]).toBeCloseTo(28.5, 2);
    expect(extent(bar, 0)[1]).toBeCloseTo(12, 2);
  });

  it("look outward all round", () => {
    for (const mesh of [ponticBody(pontic)!, connectorBody(connector)!]) {
      let inward = 0;
      for (let k = 0; k < mesh.positions.length; k += 3) {
        const out = [0, 1, 2].reduce(
          (sum, d) => sum + mesh.normals[k + d]! * (mesh.positions[k + d]! - STAND.at[d]!),
          0,
        );
        if (out < -1e-6) inward += 1;
      }
      expect(inward).toBe(0);
    }
  });

  it("are not drawn where their height is not known", () => {
    expect(ponticBody({ ...pontic, at: null, height_mm: null })).toBeNull();
    expect(connectorBody({ ...connector, at: null, height_mm: null })).toBeNull();
  });
});

describe("the lean of a surface from a path", () => {
  it("is the angle over the level across it, on the abutments alone", () => {
    const normals = new Float32Array([1, 0, 0, 0, 0, 1, Math.cos(0.1), 0, -Math.sin(0.1), 1, 0, 0]);
    const inside = [new Float32Array([0, 0, 0, NaN]), new Float32Array([NaN, 0, NaN, NaN])];
    const found = leaning(normals, inside, [0, 0, 2], 10);
    expect(found[0]).toBeCloseTo(0, 6);
    expect(found[1]).toBeCloseTo(9, 6);
    expect(found[2]).toBeCloseTo(-0.573, 3);
    expect(found[3]).toBeNaN();
  });
});
