import { BufferAttribute, type BufferGeometry } from "three";
import { contourNumbers, type ContourNumber } from "./contours";
import { sharesOf } from "./marks";
import type { Vec } from "./vectors";

/** What the tooth wears: one value for each vertex, and what limits it there; empty where nothing is known. */
export interface Fields {
  value: Float32Array;
  low: Float32Array;
  high: Float32Array;
  unseen: Float32Array;
}
/** How the values colour the tooth: not at all, against limits, as room to what stands over it, as taken off. */
export type Mode = "plain" | "judged" | "room" | "taken";
/** What the tooth says at a place: null where the lens knows nothing there. */
export interface Reading {
  place: Vec;
  value: number | null;
  low: number | null;
  high: number | null;
  unseen: boolean;
}

const NOT_OURS = "The colours belong to another picture of this tooth and are not shown; measure again.";
const NO_MAXIMUM = 99; // mm: where over-cutting is not judged by depth
const KNOWN = 0.999; // a vertex whose value and minimum are both there counts 1

/** Give a mesh its values. Throws where they are another mesh's. */
export function wear(geometry: BufferGeometry, fields: Fields | null) {
  const count = geometry.getAttribute("position").count;
  for (const given of Object.values(fields ?? {}) as Float32Array[])
    if (given.length !== 0 && given.length !== count) throw new Error(NOT_OURS);
  const known = new Float32Array(count);
  for (const name of ["value", "low", "high", "unseen"] as const) {
    const array = new Float32Array(count).fill(name === "high" ? NO_MAXIMUM : 0);
    const given = fields?.[name];
    if (given?.length) {
      for (let i = 0; i < count; i++) {
        if (Number.isNaN(given[i]!)) continue;
        array[i] = given[i]!;
        if (name === "value" || name === "low") known[i] = known[i]! + 0.5;
      }
    }
    geometry.setAttribute(name, new BufferAttribute(array, 1));
  }
  geometry.setAttribute("known", new BufferAttribute(known, 1));
}

/** Numbers for the contour lines of what is worn; none where nothing is. `u`: what is too little to be told, mm. */
export function numbersOf(geometry: BufferGeometry, mode: Mode, u: number, step: number): ContourNumber[] {
  if (!geometry.getAttribute("known") || mode === "plain") return [];
  const of = (name: string) => geometry.getAttribute(name).array;
  const [known, value, low, high, unseen] = [of("known"), of("value"), of("low"), of("high"), of("unseen")];
  const counted = new Float32Array(known.length).fill(NaN);
  for (let i = 0; i < known.length; i++) {
    if (known[i]! < KNOWN || unseen[i]! > 0.5) continue;
    const [missing, excess] = [low[i]! - value[i]!, value[i]! - high[i]!];
    if (mode === "taken") counted[i] = value[i]!;
    else if (missing > 0) counted[i] = missing;
    else if (mode === "room" && -missing > u) counted[i] = value[i]!;
    else if (excess > 0) counted[i] = excess;
  }
  const field = {
    positions: of("position"),
    normals: of("normal"),
    indices: geometry.getIndex()!.array,
    counted,
  };
  return contourNumbers(field, step);
}

/** What is worn at a place of a triangle, given by its corners. */
export function readingAt(geometry: BufferGeometry, mode: Mode, place: Vec, corners: number[]): Reading {
  const nothing = { place, value: null, low: null, high: null, unseen: false };
  const known = geometry.getAttribute("known");
  if (!known || mode === "plain") return nothing;
  const shares = sharesOf(geometry, corners, place);
  const at = (name: string) => {
    const attribute = geometry.getAttribute(name);
    return corners.reduce((sum, corner, k) => sum + shares[k]! * attribute.getX(corner), 0);
  };
  if (at("unseen") > 0.5) return { ...nothing, unseen: true };
  if (corners.some((corner) => known.getX(corner) < KNOWN)) return nothing;
  const high = at("high");
  return {
    place,
    value: at("value"),
    low: at("low"),
    high: high >= NO_MAXIMUM ? null : high,
    unseen: false,
  };
}
