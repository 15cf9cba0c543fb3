import { expect, it } from "vitest";
import { listed, type Verdict } from "./findings";

const verdict: Verdict = {
  criterion: "reduction", zone: "functional-cusp/distal", bound: "min", value: 0.6, unit: "mm", U: 0.03, limit: 1,
  target: 1.5, status: "short", missing: 0.4, to_target: 0.9, why: "", source: "", at: [0, 0, 0], where: "distal cusp",
}; // prettier-ignore
const line = {
  verdict: 1,
  title: "reduction",
  lens: "space",
  amount: "0.4 mm",
  says: "short",
  advice: "Remove.",
};

it("joins the server's lines with their verdicts, in its order", () => {
  const other = { ...verdict, zone: "central-groove" };
  const rows = listed([line, { ...line, verdict: 0, lens: null }], [verdict, other]);
  expect(rows.map((r) => [r.zone, r.lens, r.amount])).toEqual([
    ["central-groove", "space", "0.4 mm"],
    ["functional-cusp/distal", "depth", "0.4 mm"],
  ]);
});

it("leaves out a line without its verdict, and shows an unknown lens as depth", () => {
  expect(listed([{ ...line, verdict: 7 }], [verdict])).toEqual([]);
  expect(listed([{ ...line, verdict: 0, lens: "x-ray" }], [verdict])[0]!.lens).toBe("depth");
});
