import type { Vec } from "./vectors";

/** A number standing on a contour line: where, and which way the surface faces there. */
export interface ContourNumber {
  place: Vec;
  normal: Vec;
  text: string;
}
export interface ContourField {
  positions: ArrayLike<number>;
  normals: ArrayLike<number>;
  indices: ArrayLike<number>;
  /** What the lines count, by vertex; NaN where nothing is counted. */
  counted: Float32Array;
}

const APART_MM = 2.2; // one number for a line within this reach
const MOST = 60;

/** One number a line and neighbourhood, at a place where the line crosses an edge. */
export function contourNumbers(field: ContourField, step: number): ContourNumber[] {
  const { positions, normals, indices, counted } = field;
  const found = new Map<string, ContourNumber>();
  for (let t = 0; t < indices.length && found.size < MOST; t += 3) {
    for (let k = 0; k < 3; k++) {
      const [a, b] = [indices[t + k]!, indices[t + ((k + 1) % 3)]!];
      const [u, v] = [counted[a]!, counted[b]!];
      if (!(u < v)) continue; // each edge once, NaN never
      const level = Math.ceil(u / step) * step;
      if (level < step / 2 || level > v || level === u) continue;
      const share = (level - u) / (v - u);
      const mix = (of: ArrayLike<number>): Vec => [
        of[3 * a]! + share * (of[3 * b]! - of[3 * a]!),
        of[3 * a + 1]! + share * (of[3 * b + 1]! - of[3 * a + 1]!),
        of[3 * a + 2]! + share * (of[3 * b + 2]! - of[3 * a + 2]!),
      ];
      const place = mix(positions);
      const key = [Math.round(level / step), ...place.map((c) => Math.round(c / APART_MM))].join(" ");
      if (!found.has(key)) found.set(key, { place, normal: mix(normals), text: level.toFixed(1) });
    }
  }
  return [...found.values()];
}
