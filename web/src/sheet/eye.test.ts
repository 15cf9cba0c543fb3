import { beforeEach, expect, test } from "vitest";
import { Eye } from "./eye";
import { cross, dot, type Vec } from "./vectors";

let eye: Eye;
beforeEach(() => {
  eye = new Eye();
  eye.size = { width: 400, height: 200 };
  eye.look({ eye: [0, 0, 1], up: [0, 1, 0] }, [1, 2, 3], 20);
});

test("the place that is looked at lies in the middle, a millimetre is as many dots across as up", () => {
  expect(eye.project([1, 2, 3])).toMatchObject({ x: 200, y: 100, facing: true, towards: 0 });
  const across = eye.project([2, 2, 3]);
  const up = eye.project([1, 3, 3]);
  expect(across.x - 200).toBeCloseTo(10, 9); // 200 dots for 20 mm
  expect(100 - up.y).toBeCloseTo(10, 9);
});

test("a place is found again under the dot where it lies", () => {
  eye.turn(40, -25);
  const place: Vec = [2.5, 1, 4];
  const at = eye.project(place);
  eye.levelWith(at.x, at.y, place).forEach((v, k) => expect(v).toBeCloseTo(place[k]!, 9));
  const beside = eye.levelWith(at.x + 10, at.y, place);
  expect(eye.project(beside).x).toBeCloseTo(at.x + 10, 6);
  expect(eye.project(beside).towards).toBeCloseTo(at.towards, 9); // as far from the eye
});

test("turning keeps the eye and its up at right angles and of length 1", () => {
  for (let k = 0; k < 200; k++) eye.turn(17, 11);
  const { eye: from, up } = eye.now.view;
  expect(dot(from, from)).toBeCloseTo(1, 9);
  expect(dot(up, up)).toBeCloseTo(1, 9);
  expect(dot(from, up)).toBeCloseTo(0, 9);
});

test("the hand shifts what it holds: the place under it stays under it", () => {
  eye.turn(30, 20);
  const at = eye.project([1, 2, 3]);
  eye.shift(12, -7);
  const then = eye.project([1, 2, 3]);
  expect([then.x - at.x, then.y - at.y]).toEqual([expect.closeTo(12, 6), expect.closeTo(-7, 6)]);
});

test("neither nearer nor wider than a tooth and an arch", () => {
  for (let k = 0; k < 50; k++) eye.zoom(0.5);
  expect(eye.now.span).toBe(3);
  for (let k = 0; k < 50; k++) eye.zoom(2);
  expect(eye.now.span).toBe(90);
});

test("what hides a place lies between it and the eye", () => {
  const ray = eye.back([1, 2, 3]).ray;
  expect(ray.direction.toArray()).toEqual([0, 0, 1]);
  expect(ray.origin.z).toBeGreaterThan(3);
  const { eye: from, up } = eye.now.view;
  expect(eye.faces(from)).toBe(true);
  expect(eye.faces(cross(up, from))).toBe(false);
});
