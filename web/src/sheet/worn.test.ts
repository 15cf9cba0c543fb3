import { BufferAttribute, BufferGeometry } from "three";
import { beforeEach, expect, test } from "vitest";
import { readingAt, wear } from "./worn";

const NAN = NaN;
let triangle: BufferGeometry;
const fields = (value: number[], low: number[], high: number[], unseen: number[]) => ({
  value: new Float32Array(value),
  low: new Float32Array(low),
  high: new Float32Array(high),
  unseen: new Float32Array(unseen),
});

beforeEach(() => {
  triangle = new BufferGeometry();
  triangle.setAttribute("position", new BufferAttribute(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]), 3));
  triangle.setIndex([0, 1, 2]);
});

test("between its corners a triangle reads what lies between their values", () => {
  wear(triangle, fields([1, 2, 3], [1.5, 1.5, 1.5], [2, 2, 2], [0, 0, 0]));
  const read = readingAt(triangle, "judged", [0.25, 0.5, 0], [0, 1, 2]);
  expect(read.value).toBeCloseTo(0.25 * 1 + 0.25 * 2 + 0.5 * 3, 6);
  expect([read.low, read.high, read.unseen]).toEqual([1.5, 2, false]);
});

test("where no maximum is given, none is read", () => {
  wear(triangle, fields([1, 1, 1], [1, 1, 1], [], [0, 0, 0]));
  expect(readingAt(triangle, "judged", [0.2, 0.2, 0], [0, 1, 2]).high).toBeNull();
});

test("a corner without a value says nothing, nor does what no scan saw", () => {
  wear(triangle, fields([1, NAN, 1], [1, 1, 1], [2, 2, 2], [0, 0, 0]));
  expect(readingAt(triangle, "judged", [0.2, 0.2, 0], [0, 1, 2]).value).toBeNull();
  wear(triangle, fields([1, 1, 1], [1, 1, 1], [2, 2, 2], [1, 1, 1]));
  expect(readingAt(triangle, "judged", [0.2, 0.2, 0], [0, 1, 2])).toMatchObject({
    value: null,
    unseen: true,
  });
});

test("a plain tooth says nothing, and one that was stripped neither", () => {
  wear(triangle, fields([1, 1, 1], [1, 1, 1], [2, 2, 2], [0, 0, 0]));
  expect(readingAt(triangle, "plain", [0.2, 0.2, 0], [0, 1, 2]).value).toBeNull();
  wear(triangle, null);
  expect(readingAt(triangle, "judged", [0.2, 0.2, 0], [0, 1, 2]).value).toBeNull();
});

test("values of another mesh are refused in words", () => {
  expect(() => wear(triangle, fields([1, 1], [1, 1], [2, 2], [0, 0]))).toThrow(
    /another picture of this tooth/,
  );
});
