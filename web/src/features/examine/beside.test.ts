import { describe, expect, it } from "vitest";
import { movedMesh, outlookOf } from "../../sheet/blob";
import type { Frame } from "../../sheet/views";
import { carried } from "./beside.svelte";

const here: Frame = { occlusal: [0, 0, 1], facial: [0, 1, 0], mesial: [1, 0, 0] };
const there: Frame = { occlusal: [1, 0, 0], facial: [0, 0, -1], mesial: [0, 1, 0] };

describe("two sheets that turn together", () => {
  it("carries a direction from one tooth's axes to the other's", () => {
    expect(carried([0, 0, 1], here, there)).toEqual(there.occlusal);
    expect(carried([0.6, 0.8, 0], here, there)).toEqual([0, 0.6, -0.8]);
    expect(carried([0.3, -0.4, 0.5], here, here)).toEqual([0.3, -0.4, 0.5]);
  });

  it("knows where an open mesh lies and which way it looks", () => {
    const { middle, out } = outlookOf({
      positions: new Float32Array([0, 0, 0, 4, 0, 0, 2, 6, 0]),
      normals: new Float32Array([0, 0.6, 0.8, 0, -0.6, 0.8, 0, 0, 1]),
      indices: new Uint32Array([0, 1, 2]),
    });
    expect(middle).toEqual([2, 2, 0]);
    expect(out.map((v) => Math.round(v * 1e6) / 1e6)).toEqual([0, 0, 1]);
  });

  it("moves a mesh as a rigid body: places are shifted, normals only turned", () => {
    const mesh = {
      positions: new Float32Array([1, 2, 3]),
      normals: new Float32Array([0, 0, 1]),
      indices: new Uint32Array(0),
    };
    const quarter = [
      [0, -1, 0, 10],
      [1, 0, 0, 20],
      [0, 0, 1, 30],
      [0, 0, 0, 1],
    ];
    const moved = movedMesh(mesh, quarter);
    expect([...moved.positions]).toEqual([8, 21, 33]);
    expect([...moved.normals]).toEqual([0, 0, 1]);
    expect([...mesh.positions]).toEqual([1, 2, 3]);
  });
});
