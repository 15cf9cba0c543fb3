import { beforeEach, expect, test, vi } from "vitest";
import { api, ApiError, type Case, type CaseRow } from "../../api/client";
import { undo } from "../../ui/undo.svelte";
import { CaseList } from "./state.svelte";

const made = (code: string) => ({ id: code, code, sites: [] }) as unknown as Case;
const rowOf = (one: Case) =>
  ({ case: one, standing: { state: "stop", text: "", picture: null }, changed_at: "" }) as CaseRow;
let here: Case[];
let away: Case[];
let list: CaseList;

beforeEach(async () => {
  vi.restoreAllMocks();
  [here, away] = [[made("a"), made("b")], []];
  const move = (id: string, from: Case[], to: Case[]) =>
    to.push(
      ...from.splice(
        from.findIndex((c) => c.id === id),
        1,
      ),
    );
  vi.spyOn(api, "cases").mockImplementation(async (put_away) => (put_away ? away : here).map(rowOf));
  vi.spyOn(api, "deleteCase").mockImplementation(async (id, forGood) => {
    if (forGood) away = away.filter((c) => c.id !== id);
    else move(id, here, away);
    return undefined as never;
  });
  vi.spyOn(api, "takeCaseBack").mockImplementation(async (id) => {
    move(id, away, here);
    return made(id);
  });
  undo.drop();
  list = new CaseList();
  await list.load();
});

const codes = (cases: Case[] | null) => (cases ?? []).map((c) => c.code);

test("a case is put away with a way back", async () => {
  await list.putAway(list.cases![0]!.case);
  expect([codes(list.cases?.map((row) => row.case) ?? null), codes(list.away)]).toEqual([["b"], ["a"]]);
  expect(undo.text).toContain("a was put away");
  await undo.take();
  expect([codes(list.cases?.map((row) => row.case) ?? null), codes(list.away)]).toEqual([["b", "a"], []]);
  expect(undo.text).toBe("");
});

test("a case is deleted for good only from among those put away", async () => {
  await list.putAway(list.cases![0]!.case);
  await list.deleteForGood(list.away[0]!);
  expect([codes(list.cases?.map((row) => row.case) ?? null), codes(list.away)]).toEqual([["b"], []]);
  expect(undo.text).toBe("");
});

test("what fails is said, on the list and on the way back", async () => {
  vi.spyOn(api, "deleteCase").mockRejectedValueOnce(new ApiError("The program does not answer.", 0));
  await list.putAway(list.cases![0]!.case);
  expect(list.error).toContain("does not answer");
  expect(undo.text).toBe("");
  await list.putAway(list.cases![0]!.case);
  vi.spyOn(api, "takeCaseBack").mockRejectedValueOnce(new ApiError("There is no such case.", 404));
  await undo.take();
  expect(undo.error).toContain("no such case");
  expect(undo.text).not.toBe("");
});
