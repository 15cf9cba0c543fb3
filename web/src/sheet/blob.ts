import { scale, unit, type Vec } from "./vectors";

/** Binary display meshes and fields, as the server lays them out (core/mesh/light.py). */
export interface MeshData {
  positions: Float32Array;
  normals: Float32Array;
  indices: Uint32Array;
}

export function parseMesh(buffer: ArrayBuffer): MeshData {
  const head = new Uint32Array(buffer, 0, 2);
  const [vertices, faces] = [head[0] ?? 0, head[1] ?? 0];
  const size = vertices * 3;
  if (buffer.byteLength !== 8 + size * 8 + faces * 12) throw new Error("The mesh is not as long as it says.");
  return {
    positions: new Float32Array(buffer, 8, size),
    normals: new Float32Array(buffer, 8 + size * 4, size),
    indices: new Uint32Array(buffer, 8 + size * 8, faces * 3),
  };
}

/** The middle of a mesh, and which way its open surface looks on the whole: out of the jaw. */
export function outlookOf(mesh: MeshData): { middle: Vec; out: Vec } {
  const mean = (of: Float32Array): Vec => {
    const sum: Vec = [0, 0, 0];
    for (let i = 0; i < of.length; i++) sum[i % 3]! += of[i]!;
    return scale(sum, 3 / Math.max(of.length, 1));
  };
  return { middle: mean(mesh.positions), out: unit(mean(mesh.normals)) };
}

/** The mesh under a rigid matrix (4, 4 rows). */
export function movedMesh(mesh: MeshData, matrix: number[][]): MeshData {
  const through = (from: Float32Array, shift: number) => {
    const out = new Float32Array(from.length);
    for (let i = 0; i < from.length; i += 3)
      for (let r = 0; r < 3; r++) {
        const [a, b, c, d] = matrix[r] as [number, number, number, number];
        out[i + r] = a * from[i]! + b * from[i + 1]! + c * from[i + 2]! + d * shift;
      }
    return out;
  };
  return { ...mesh, positions: through(mesh.positions, 1), normals: through(mesh.normals, 0) };
}
