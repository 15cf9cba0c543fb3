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
