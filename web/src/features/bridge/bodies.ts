import type { BridgeDocument } from "../../api/client";
import type { MeshData } from "../../sheet/blob";
import { add, cross, scale, unit, vec, type Vec } from "../../sheet/vectors";

type Pontic = BridgeDocument["pontics"][number];
type Connector = BridgeDocument["connectors"][number];

const [AROUND, UP] = [40, 24];
const SQUARE = 2.6; // exponent of a pontic's plan: between an ellipse and a box
const FOOT = 0.45; // of a pontic's breadth where it meets the ridge: what is broader is not cleaned
const JOINT_MM = 1.6; // how long a connector is drawn

/** A closed body about the origin by its half-width along two directions at each level, -1 to 1. */
function body(at: Vec, axes: [Vec, Vec, Vec], point: (level: number, turn: number) => Vec): MeshData {
  const positions = new Float32Array((UP + 1) * AROUND * 3);
  const normals = new Float32Array(positions.length);
  const indices: number[] = [];
  for (let i = 0; i <= UP; i++)
    for (let j = 0; j < AROUND; j++) {
      const p = point((2 * i) / UP - 1, (2 * Math.PI * j) / AROUND);
      const placed = axes.reduce<Vec>((sum, axis, k) => add(sum, axis, p[k]!), at);
      positions.set(placed, 3 * (i * AROUND + j));
      if (i === UP) continue;
      const [a, b] = [i * AROUND + j, i * AROUND + ((j + 1) % AROUND)];
      indices.push(a, b, a + AROUND, b, b + AROUND, a + AROUND);
    }
  const corner = (k: number): Vec => [positions[3 * k]!, positions[3 * k + 1]!, positions[3 * k + 2]!];
  for (let k = 0; k < indices.length; k += 3) {
    const [a, b, c] = [indices[k]!, indices[k + 1]!, indices[k + 2]!];
    const face = cross(add(corner(b), corner(a), -1), add(corner(c), corner(a), -1));
    for (const n of [a, b, c]) for (let d = 0; d < 3; d++) normals[3 * n + d]! += face[d]!;
  }
  for (let k = 0; k < normals.length; k += 3) {
    const n = Math.hypot(normals[k]!, normals[k + 1]!, normals[k + 2]!) || 1;
    for (let d = 0; d < 3; d++) normals[k + d]! /= n;
  }
  return { positions, normals, indices: new Uint32Array(indices) };
}

function axesOf(row: { along: number[]; up: number[] }): [Vec, Vec, Vec] {
  const [along, up] = [unit(vec(row.along)), unit(vec(row.up))];
  return [along, unit(cross(up, along)), up];
}

/** The room for a pontic as a tooth-like body; null where its height is not known. */
export function ponticBody(row: Pontic): MeshData | null {
  if (!row.at || row.height_mm === null || row.height_mm <= 0) return null;
  const half = [row.width_mm / 2, row.across_mm / 2, row.height_mm / 2] as const;
  return body(vec(row.at), axesOf(row), (level, turn) => {
    const round = Math.pow(1 - Math.pow(Math.abs(level), 4), 0.25);
    const breadth = round * (level < 0 ? 1 - (1 - FOOT) * Math.pow(-level, 1.5) : 1);
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    const r = Math.pow(Math.pow(Math.abs(c), SQUARE) + Math.pow(Math.abs(s), SQUARE), -1 / SQUARE);
    return [half[0] * breadth * r * c, half[1] * breadth * r * s, half[2] * level];
  });
}

/** The greatest ellipse at a joint, as a short bar of it; null where its height is not known. */
export function connectorBody(row: Connector): MeshData | null {
  if (!row.at || row.height_mm === null || row.height_mm <= 0 || row.width_mm <= 0) return null;
  const half = [row.width_mm / 2, row.height_mm / 2] as const;
  return body(vec(row.at), axesOf(row), (level, turn) => {
    const round = Math.pow(1 - Math.pow(Math.abs(level), 6), 1 / 6);
    return [(JOINT_MM / 2) * level, half[0] * round * Math.cos(turn), half[1] * round * Math.sin(turn)];
  });
}

/** How far each point of a surface leans from a path, as a share of the colours' scale; NaN off the abutments. */
export function leaning(
  normals: Float32Array,
  inside: Float32Array[],
  path: Vec,
  scaleDeg: number,
): Float32Array {
  const [x, y, z] = unit(path);
  const out = new Float32Array(normals.length / 3);
  for (let i = 0; i < out.length; i++) {
    if (!inside.some((field) => i < field.length && !Number.isNaN(field[i]!))) {
      out[i] = NaN;
      continue;
    }
    const sine = normals[3 * i]! * x + normals[3 * i + 1]! * y + normals[3 * i + 2]! * z;
    out[i] = (Math.asin(Math.max(-1, Math.min(1, sine))) * 180) / Math.PI / scaleDeg;
  }
  return out;
}

/** The middle of some places. */
export const middleOf = (places: Vec[]): Vec =>
  scale(
    places.reduce<Vec>((sum, place) => add(sum, place), [0, 0, 0]),
    1 / Math.max(places.length, 1),
  );
