import { describe, expect, it } from "vitest";
import type { Contact, Movement } from "../../api/client";
import { guidesOf, inShort, listed, sizeOf, toothOf, whoGuides, closedPose } from "./bite";

const area = (mm2: number) => ({ mm2, least_mm2: mm2 / 2, most_mm2: mm2 * 2 });
function contact(change: Contact["change"], more: Partial<Contact> = {}): Contact {
  const [before, after] = [change === "new" ? 0 : 1, change === "lost" ? 0 : 1].map(area);
  return {
    at: [0, 0, 0],
    tooth: "35",
    own: false,
    change,
    before: before!,
    after: after!,
    gap_mm: 0,
    ...more,
  };
}

describe("contacts", () => {
  it("are told in one line, changes named", () => {
    expect(inShort([contact("kept"), contact("kept"), contact("cut", { own: true })])).toBe(
      "2 contacts on the other teeth, as before cutting",
    );
    expect(inShort([contact("kept"), contact("lost"), contact("new"), contact("new")])).toBe(
      "3 contacts on the other teeth: 2 new, 1 lost",
    );
    expect(inShort([contact("alone", { before: null })])).toBe("1 contact on the other teeth");
  });
  it("stand by tooth, what changed first, without the tooth's own", () => {
    const rows = [
      contact("kept", { tooth: "34" }),
      contact("lost", { tooth: "37" }),
      contact("cut", { own: true }),
      contact("kept", { tooth: null }),
    ];
    expect(listed(rows).map((c) => c.tooth)).toEqual(["37", null, "34"]);
    expect(rows.map(toothOf)).toEqual(["about 34", "about 37", "this tooth", "another tooth"]);
  });
  it("are drawn the larger, the more of the teeth meets", () => {
    const sizes = [0.05, 1, 4, 9].map((mm2) => sizeOf(contact("kept", { after: area(mm2), before: null })));
    expect(sizes).toEqual([...sizes].sort((a, b) => a - b));
    expect(sizes[2]).toBe(sizes[3]);
    expect(sizes[0]).toBeGreaterThanOrEqual(10);
  });
});

describe("guides", () => {
  const guide = (tooth: string | null, own: boolean, before: boolean) => ({
    step_mm: 1, at: [0, 0, 0] as [number, number, number], tooth, own, before,
  }); // prettier-ignore
  const moved = (...guides: Movement["guides"]) => ({ guides }) as Movement;
  it("are named once each, before and after", () => {
    const one = moved(guide("33", false, true), guide("33", false, true), guide("36", true, true), guide("34", false, false)); // prettier-ignore
    expect(guidesOf(one, true)).toEqual(["33", "this tooth"]);
    expect(whoGuides(one)).toBe("guided by 33, this tooth; without this tooth by 34");
  });
  it("say nothing of what is missing where this tooth does not guide, or no teeth do", () => {
    expect(whoGuides(moved(guide("33", false, true), guide("33", false, false)))).toBe("guided by 33");
    expect(whoGuides(moved())).toBe("");
  });
});

describe("a bite that was recorded shifted", () => {
  it("is drawn aside by what is told and closed by as much", () => {
    const pose = closedPose({ by: [0.5, 0, 0], deeper_mm: 0.25 }, [0, 0, 1]);
    expect(pose.map((row) => row[3])).toEqual([0.5, 0, -0.25, 1]);
    expect(pose[0]!.slice(0, 3)).toEqual([1, 0, 0]);
  });
});
