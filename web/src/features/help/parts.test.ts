import { describe, expect, it } from "vitest";
import { keysOf, WALK } from "./parts";

describe("help", () => {
  it("tells the keys of the screen that is open", () => {
    expect(keysOf("/case/1").map((k) => k.key)).toContain("B");
    expect(keysOf("/case/1/plan").map((k) => k.key)).not.toContain("B");
    expect(keysOf("/").map((k) => k.key)).toEqual(["?"]);
    expect(keysOf("/case/1/scans").map((k) => k.key)).toEqual(["?"]);
  });

  it("walks in five steps, each short enough to be read", () => {
    expect(WALK).toHaveLength(5);
    for (const step of WALK) expect(step.says.length).toBeLessThan(120);
  });
});
