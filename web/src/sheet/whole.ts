import type { MeshData } from "./blob";
import { add, cross, dot, unit, type Vec } from "./vectors";
import type { View } from "./views";

/** A view of a whole scan from where most of it faces, which is about its occlusal side: a scan is an open shell. */
export function wholeView(mesh: MeshData): { view: View; middle: Vec; span: number } {
  const { positions, normals } = mesh;
  const low: Vec = [Infinity, Infinity, Infinity];
  const high: Vec = [-Infinity, -Infinity, -Infinity];
  const sum: Vec = [0, 0, 0];
  for (let i = 0; i < positions.length; i += 3) {
    for (const k of [0, 1, 2] as const) {
      low[k] = Math.min(low[k], positions[i + k]!);
      high[k] = Math.max(high[k], positions[i + k]!);
      sum[k] += normals[i + k]!;
    }
  }
  const middle: Vec = [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, (low[2] + high[2]) / 2];
  const size = Math.hypot(high[0] - low[0], high[1] - low[1], high[2] - low[2]);
  const eye = unit(sum);
  return { view: { eye, up: acrossRow(positions, eye) }, middle, span: Math.min(size, 80) * 0.8 };
}

/** What is up on the screen, so that the row of teeth lies level: across the direction in which the scan is longest. */
function acrossRow(positions: Float32Array, eye: Vec): Vec {
  const side = unit(cross(Math.abs(eye[1]) < 0.8 ? [0, 1, 0] : [0, 0, 1], eye));
  const other = cross(eye, side);
  const count = positions.length / 3;
  let [a, b, aa, ab, bb] = [0, 0, 0, 0, 0];
  for (let i = 0; i < positions.length; i += 3) {
    const place: Vec = [positions[i]!, positions[i + 1]!, positions[i + 2]!];
    const [x, y] = [dot(place, side), dot(place, other)];
    a += x;
    b += y;
    aa += x * x;
    ab += x * y;
    bb += y * y;
  }
  const turn = 0.5 * Math.atan2(2 * (ab - (a * b) / count), aa - (a * a) / count - (bb - (b * b) / count));
  return add(add([0, 0, 0], side, -Math.sin(turn)), other, Math.cos(turn));
}
