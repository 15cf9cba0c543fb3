import type { Vec } from "../../sheet/vectors";

export interface ReliefFields {
  depth: Float32Array;
  least: Float32Array;
  most: Float32Array;
  short: Float32Array;
  over: Float32Array;
}

/** What the class did at a place; depth null where too few tell, least null where nothing is asked. */
export interface ToldAt {
  depth: number | null;
  least: number | null;
  short: number;
  over: number;
}

const orNull = (value: number | undefined) => (value === undefined || Number.isNaN(value) ? null : value);

/** What is told at a vertex. */
export function toldAt(fields: ReliefFields, vertex: number): ToldAt {
  return {
    depth: orNull(fields.depth[vertex]),
    least: orNull(fields.least[vertex]),
    short: orNull(fields.short[vertex]) ?? 0,
    over: orNull(fields.over[vertex]) ?? 0,
  };
}

/** The vertex nearest to a place. */
export function nearestTo(positions: Float32Array, place: Vec): number {
  let [best, nearest] = [0, Infinity];
  for (let i = 0; i < positions.length; i += 3) {
    const off = Math.hypot(
      positions[i]! - place[0],
      positions[i + 1]! - place[1],
      positions[i + 2]! - place[2],
    );
    if (off < nearest) [best, nearest] = [i / 3, off];
  }
  return best;
}

/** The middle of the vertices at which something is told; of all where nothing is. */
export function middleOf(positions: Float32Array, told: Float32Array): Vec {
  const sum: Vec = [0, 0, 0];
  let count = 0;
  const any = told.some((value) => !Number.isNaN(value));
  for (let v = 0; v < told.length; v++) {
    if (any && Number.isNaN(told[v]!)) continue;
    count += 1;
    for (const k of [0, 1, 2] as const) sum[k] += positions[3 * v + k]!;
  }
  const parts = Math.max(count, 1);
  return [sum[0] / parts, sum[1] / parts, sum[2] / parts];
}
