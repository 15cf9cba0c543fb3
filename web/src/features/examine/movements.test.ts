import { expect, test } from "vitest";
import type { Movement } from "../../api/client";
import { product } from "../../sheet/vectors";
import { anglesOf, kept, tightest } from "./movements.svelte";

test("angles are kept as they are entered, and a dash stands for none", () => {
  expect(anglesOf(null)).toEqual([null, null, null]);
  expect(anglesOf("35,-,10.5")).toEqual([35, null, 10.5]);
  expect(kept([35, null, 10.5])).toBe("35,-,10.5");
  expect(anglesOf(kept([0, null, null]))).toEqual([0, null, null]);
});

test("the tightest step is that of the judged places alone", () => {
  const zone = (name: string, low_mm: number | null, step_mm: number | null) => ({
    zone: name,
    low_mm,
    step_mm,
    at: null,
  });
  const movement: Movement = {
    movement: "protrusive",
    by_teeth: true,
    leads_mm: null,
    overall: { low_mm: 0.2, at: null, step_mm: 1 },
    zones: [
      zone("wall/mesial/middle", 0.2, 1),
      zone("a", 0.9, 0.25),
      zone("b", 0.7, 2),
      zone("c", null, null),
    ],
    guides: [],
    poses: [],
  };
  expect(tightest(movement, ["a", "b", "c"])).toEqual({ zone: "b", low_mm: 0.7, step_mm: 2 });
  expect(tightest(movement, [])).toBeNull();
});

test("a product of matrices moves first by the second", () => {
  const shift = [[1, 0, 0, 5], [0, 1, 0, 0], [0, 0, 1, 0], [0, 0, 0, 1]]; // prettier-ignore
  const quarter = [[0, -1, 0, 0], [1, 0, 0, 0], [0, 0, 1, 0], [0, 0, 0, 1]]; // prettier-ignore
  expect(product(quarter, shift).map((row) => row[3])).toEqual([0, 5, 0, 1]);
  expect(product(shift, quarter).map((row) => row[3])).toEqual([5, 0, 0, 1]);
});
