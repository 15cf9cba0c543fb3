import { describe, expect, it } from "vitest";
import type { ClassRow, MarkDocument } from "../../api/client";
import { gradeText, lookText, markText, ordered, rangeText } from "./marks";

const mark = (value: number | null, low = value, high = value, could_be = ["pass"]) =>
  ({ mark: value, low, high, grade: value === null ? null : "pass", could_be }) as MarkDocument;
const row = (code: string, value: number | null, overrule: number | null = null) =>
  ({ code, mark: value === null ? null : mark(value), overrule: overrule === null ? null : { mark: overrule, why: "" } }) as ClassRow; // prettier-ignore

describe("marks", () => {
  it("say what they could be", () => {
    expect([markText(mark(61.6)), rangeText(mark(61.6, 57.2, 66.1))]).toEqual(["62", "57 to 66"]);
    expect([markText(mark(null)), rangeText(mark(null)), gradeText(null)]).toEqual(["–", "", ""]);
    expect(rangeText(mark(40, 40, 40))).toBe("");
    expect(gradeText(mark(61, 57, 66, ["pass", "not yet"]))).toBe("pass ?");
    expect(gradeText(mark(61))).toBe("pass");
  });
  it("stand in the order asked for, the instructor's before the tool's, none last", () => {
    const rows = [row("S-03", 70), row("S-01", null), row("S-02", 90, 50), row("S-04", 60)];
    const codes = (order: string) => ordered(rows, order).map((r) => r.code);
    expect(codes("code")).toEqual(["S-01", "S-02", "S-03", "S-04"]);
    expect(codes("mark")).toEqual(["S-03", "S-04", "S-02", "S-01"]);
    expect(codes("worst")).toEqual(["S-02", "S-04", "S-03", "S-01"]);
  });
  it("count what was seen", () => {
    const look = { seen: [{}, {}], missed: [{}] } as never;
    expect([lookText(look), lookText(null)]).toEqual(["2 of 3", ""]);
  });
});
