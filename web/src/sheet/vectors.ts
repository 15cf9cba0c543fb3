/** Small vectors as plain arrays: what the server sends and the address bar can hold. */
export type Vec = [number, number, number];

export const vec = (values: readonly number[]): Vec => [values[0] ?? 0, values[1] ?? 0, values[2] ?? 0];
export const add = (a: Vec, b: Vec, k = 1): Vec => [a[0] + k * b[0], a[1] + k * b[1], a[2] + k * b[2]];
export const scale = (a: Vec, k: number): Vec => [a[0] * k, a[1] * k, a[2] * k];
export const dot = (a: Vec, b: Vec) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: Vec, b: Vec): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const length = (a: Vec) => Math.hypot(...a);
export const unit = (a: Vec): Vec => scale(a, 1 / (length(a) || 1));

/** `v` turned round the unit `axis` by `angle` radians (Rodrigues). */
export function turned(v: Vec, axis: Vec, angle: number): Vec {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return add(add(scale(v, c), cross(axis, v), s), axis, dot(axis, v) * (1 - c));
}

/** First `b`, then `a`: rigid 4 x 4 matrices, row by row. */
export const product = (a: number[][], b: number[][]): number[][] =>
  a.map((row) => [0, 1, 2, 3].map((j) => row.reduce((sum, v, k) => sum + v * b[k]![j]!, 0)));
