import { expect, it } from "vitest";
import type { Verdict } from "../../api/client";
import { listed, rowsOf } from "./findings";

const verdict: Verdict = {
  pose: null,
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
    ["functional-cusp/distal", null, "0.4 mm"],
  ]);
});

it("leaves out a line without its verdict", () => {
  expect(listed([{ ...line, verdict: 7 }], [verdict])).toEqual([]);
});

it("gathers findings into the server's rows, and leaves out a row without any", () => {
  const found = listed([{ ...line, verdict: 0 }, line], [verdict, { ...verdict, zone: "central-groove" }]);
  const places = [
    { where: "central groove", concern: "Room", findings: [1] },
    { where: "distal cusp", concern: "Room", findings: [0, 9] },
    { where: "nowhere", concern: "Doubtful", findings: [7] },
  ];
  const rows = rowsOf(places, found);
  expect(rows.map((r) => [r.where, r.findings.length])).toEqual([
    ["central groove", 1],
    ["distal cusp", 1],
  ]);
});
