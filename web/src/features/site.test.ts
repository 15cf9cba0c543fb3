import { describe, expect, it } from "vitest";
import type { Case, Site } from "../api/client";
import { readingAt, siteOf, teethOf } from "./site";

const site = (tooth: string, ids: string[]) =>
  ({ id: tooth, tooth, readings: ids.map((id, k) => ({ id, number: k + 1 })) }) as unknown as Site;
const bridge = { sites: [site("35", ["a1", "a2"]), site("37", ["b1", "b2"])] } as unknown as Case;

describe("teeth of a case", () => {
  it("finds the tooth that a reading is of, the first for none or one that is gone", () => {
    expect(siteOf(bridge, "b2")?.tooth).toBe("37");
    expect(siteOf(bridge, "a1")?.tooth).toBe("35");
    expect(siteOf(bridge, "gone")?.tooth).toBe("35");
    expect(siteOf(bridge, null)?.tooth).toBe("35");
    expect(siteOf(null, "a1")).toBeNull();
    expect(siteOf({ sites: [] } as unknown as Case, "a1")).toBeNull();
  });

  it("stays at the same attempt from tooth to tooth", () => {
    expect(readingAt(bridge.sites[1]!, 2)?.id).toBe("b2");
    expect(readingAt(bridge.sites[1]!, 9)?.id).toBe("b1");
    expect(readingAt(site("36", []), 1)).toBeNull();
  });

  it("names them all", () => expect(teethOf(bridge)).toBe("35, 37"));
});
