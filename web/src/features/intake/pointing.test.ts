import { expect, test } from "vitest";
import type { Vec } from "../../sheet/vectors";
import { wholeView } from "../../sheet/whole";
import { Pointing } from "./pointing.svelte";

const at = (x: number): Vec => [x, 0, 0];

test("places are pointed at in turn, and a second press on the scan ahead moves its last place", () => {
  const pointing = new Pointing(null);
  expect(pointing.next).toBe("theirs");
  pointing.press("theirs", at(1));
  expect(pointing.next).toBe("ours");
  pointing.press("theirs", at(2));
  expect(pointing.theirs).toEqual([at(2)]);
  pointing.press("ours", at(3));
  expect(pointing.next).toBe("theirs");
  expect(pointing.enough).toBe(false);
});

test("three on both are enough, and only then", () => {
  const pointing = new Pointing(null);
  for (const k of [1, 2, 3]) {
    pointing.press("theirs", at(k));
    pointing.press("ours", at(k + 10));
  }
  expect(pointing.enough).toBe(true);
  expect(pointing.pairs.ours).toEqual([at(11), at(12), at(13)]);
  pointing.press("ours", at(20));
  expect(pointing.enough).toBe(false);
  pointing.back();
  expect(pointing.enough).toBe(true);
  pointing.back();
  expect([pointing.theirs.length, pointing.ours.length]).toEqual([3, 2]);
});

test("what was kept before is there again and can be forgotten", () => {
  const kept = { theirs: [at(1), at(2), at(3)], ours: [at(4), at(5), at(6)] } as never;
  const pointing = new Pointing(kept);
  expect(pointing.kept).toBe(3);
  pointing.forget();
  expect([pointing.kept, pointing.empty]).toEqual([0, true]);
});

test("a whole scan is seen from where most of it faces", () => {
  const mesh = {
    positions: new Float32Array([0, 0, 0, 10, 0, 0, 0, 6, 0]),
    normals: new Float32Array([0, 0, 1, 0, 0, 1, 0, 0.1, 0.9]),
    indices: new Uint32Array([0, 1, 2]),
  };
  const { view, middle } = wholeView(mesh);
  expect(view.eye[2]).toBeGreaterThan(0.99);
  expect(middle).toEqual([5, 3, 0]);
});
