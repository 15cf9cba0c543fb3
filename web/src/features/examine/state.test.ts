import { beforeEach, expect, test, vi } from "vitest";
import {
  api,
  ApiError,
  type Case,
  type Lens,
  type ReadingDetail,
  type Result,
  type Vocabulary,
} from "../../api/client";
import type { SheetScene } from "../../sheet/scene";
import type { Fields } from "../../sheet/worn";
import { later, settle } from "../../test/later";
import { words } from "../vocabulary.svelte";
import { Examine } from "./state.svelte";

const VERTICES = 3;
const mesh = () => {
  const buffer = new ArrayBuffer(8 + VERTICES * 24 + 12);
  new Uint32Array(buffer, 0, 2).set([VERTICES, 1]);
  return buffer;
};
const field = (value: number, count = VERTICES) => new Float32Array(count).fill(value).buffer;

/** A scene that remembers what the tooth wears and which attempt's mesh it is. */
class FakeScene {
  worn: Record<string, number | null> = { light: null, rest: null };
  shown: string[] = [];
  judged = false;
  onDraw = () => {};
  clear() {
    this.shown = [];
  }
  count(detail: string) {
    return this.shown.includes(detail) ? VERTICES : 0;
  }
  setPrep(detail: string) {
    if (!this.shown.includes(detail)) this.shown.push(detail);
  }
  setFields(detail: string, fields: Fields | null) {
    this.worn[detail] = fields?.value[0] ?? null;
  }
  setMode(mode: string) {
    this.judged = mode !== "plain";
  }
  numbers() {
    return [];
  }
  setLine() {}
  setCurves() {}
  setStroke() {}
  setMark() {}
  ghosts: Record<string, boolean> = {};
  places: unknown[] = [];
  setGhost(name: string, data: unknown) {
    this.ghosts[name] = data !== null;
  }
  setPlaces(places: unknown[]) {
    this.places = places;
  }
  holdLight() {}
  look() {}
  tape: unknown = null;
  setTape(ends: unknown) {
    this.tape = ends;
  }
  readPlace() {
    return null;
  }
  project() {
    return null;
  }
}

const attempt = (id: string, number: number) => ({ id, number, created_at: "", job: null });
const CASE = {
  id: "c",
  code: "SM-1",
  sites: [{ id: "s", tooth: "36", standard_id: "z", readings: [attempt("one", 1), attempt("two", 2)] }],
} as unknown as Case;
const detail = (id: string) =>
  ({
    id,
    job: null,
    pins: id === "one" ? [{ place: [0, 0, 0], name: "kept" }] : [],
    pins_revision: 4,
    revisions: { line: 0 },
    scans: [
      { role: "prep", light_hash: `${id} light`, rest_hash: `${id} rest` },
      { role: "opposing", light_hash: `${id} opposing`, rest_hash: `${id} opposing` },
    ],
  }) as unknown as ReadingDetail;
const FIELDS = ["depth", "space", "depth_min", "depth_max", "unseen", "draw"];
const result = (id: string) =>
  ({
    stale: false,
    report: { answer: null, places: [], findings: [], unmeasured: [], cautions: [], meets: 0, stop: "" },
    meshes: { light: `${id} light`, rest: `${id} rest` },
    fields: Object.fromEntries(
      ["light", "rest"].flatMap((m) => FIELDS.map((f) => [`${m}/${f}`, `${id} ${m}/${f}`])),
    ),
    document: {
      verdicts: [],
      corrections: [],
      alignment: {},
      uncertainty: { U_mm: 0.03 },
      frame: { occlusal: [0, 0, 1], facial: [0, 1, 0], mesial: [1, 0, 0], confidence: 1 },
      finish_line: { points: [[0, 0, 0]], doubtful: [false] },
    },
  }) as unknown as Result;

/** What each field's colour is: told by attempt and lens. */
const COLOUR: Record<string, number> = { "one depth": 1, "one space": 2, "two depth": 3, "two space": 4 };
let scene: FakeScene;
let model: Examine;
let held: Map<string, ReturnType<typeof later<ArrayBuffer>>>;

beforeEach(async () => {
  vi.restoreAllMocks();
  held = new Map();
  vi.spyOn(api, "case").mockResolvedValue(CASE);
  vi.spyOn(api, "standards").mockResolvedValue([]);
  const lens = (name: string, field: string | null) => ({ name, field, contour_mm: 0.1 }) as Lens;
  words.all = { lenses: [lens("depth", "depth"), lens("space", "space"), lens("line", null)] } as Vocabulary;
  vi.spyOn(words, "load").mockResolvedValue();
  vi.spyOn(api, "reading").mockImplementation(async (id) => detail(id));
  vi.spyOn(api, "result").mockImplementation(async (id) => result(id));
  vi.spyOn(api, "changes").mockResolvedValue({ since: null, rows: [] });
  vi.spyOn(api, "blob").mockImplementation((digest) => {
    const waiting = held.get(digest);
    if (waiting) return waiting.promise;
    const [id, rest] = digest.split(" ") as [string, string];
    if (!rest.includes("/")) return Promise.resolve(mesh());
    return Promise.resolve(field(COLOUR[`${id} ${rest.split("/")[1]}`] ?? 0));
  });
  scene = new FakeScene();
  model = new Examine();
  model.attach(scene as unknown as SheetScene);
  await model.load("c");
  await settle();
});

const hold = (digest: string) => {
  const waiting = later<ArrayBuffer>();
  held.set(digest, waiting);
  return waiting;
};

test("an attempt opens with its colours", () => {
  expect(model.readingId).toBe("one");
  expect(scene.worn).toEqual({ light: 1, rest: 1 });
  expect(scene.judged).toBe(true);
});

test("no colour of one lens stands under another's name", async () => {
  const slow = hold("one light/space");
  const change = model.setLens("space");
  expect(scene.worn).toEqual({ light: null, rest: null });
  expect(scene.judged).toBe(false);
  expect(model.dressing).toBeGreaterThan(0);
  slow.resolve(field(2));
  await change;
  expect(scene.worn).toEqual({ light: 2, rest: 2 });
  expect(model.dressing).toBe(0);
});

test("colours that come late for the lens before are dropped", async () => {
  const slow = hold("one light/space");
  const first = model.setLens("space");
  await model.setLens("depth");
  expect(scene.worn.light).toBe(1);
  slow.resolve(field(2));
  await first;
  expect(scene.worn).toEqual({ light: 1, rest: 1 });
});

test("two attempts opened quickly do not mix", async () => {
  const slow = later<ReadingDetail>();
  vi.spyOn(api, "reading").mockImplementation((id) =>
    id === "two" ? slow.promise : Promise.resolve(detail(id)),
  );
  const second = model.open("two");
  expect(scene.shown).toEqual([]);
  expect(model.result).toBeNull();
  await model.open("one");
  await settle();
  slow.resolve(detail("two"));
  await second;
  await settle();
  expect([model.readingId, model.detail?.id]).toEqual(["one", "one"]);
  expect(model.result?.meshes.light).toBe("one light");
  expect(scene.worn).toEqual({ light: 1, rest: 1 });
});

test("a full mesh that comes late for another attempt is dropped", async () => {
  const slow = hold("two rest");
  await model.open("two");
  await model.open("one");
  await settle();
  slow.resolve(mesh());
  await settle();
  expect(scene.worn).toEqual({ light: 1, rest: 1 });
});

test("colours of an earlier picture are not painted, and that is said", async () => {
  vi.spyOn(api, "result").mockResolvedValue({ ...result("two"), meshes: { light: "old", rest: "older" } });
  await model.open("two");
  await settle();
  expect(scene.worn).toEqual({ light: null, rest: null });
  expect(scene.judged).toBe(false);
  expect(model.error).toContain("earlier picture");
});

test("colours that cannot be fetched leave the tooth plain, and that is said", async () => {
  hold("one light/space").reject(new ApiError("A part of the picture could not be loaded.", 500));
  await model.setLens("space");
  expect(scene.worn).toEqual({ light: null, rest: null });
  expect(model.error).toContain("could not be loaded");
});

test("an edit's answer does not come over another attempt", async () => {
  const sent = later<unknown>();
  const edit = model.edit("line", () => sent.promise);
  await model.open("two");
  await settle();
  sent.resolve(null);
  await edit;
  await settle();
  expect(model.detail?.id).toBe("two");
  expect(model.result?.meshes.light).toBe("two light");
  expect(model.judging).toBe(false);
});

test("an edit that is refused leaves everything and says why", async () => {
  const before = model.result;
  const kept = await model.edit("line", () => Promise.reject(new ApiError("edited elsewhere", 409)));
  expect(kept).toBe(false);
  expect(model.error).toBe("edited elsewhere");
  expect(model.result).toBe(before);
  expect(scene.worn).toEqual({ light: 1, rest: 1 });
});

test("an attempt that was not measured has no result and no colours", async () => {
  vi.spyOn(api, "result").mockRejectedValue(new ApiError("not measured", 404));
  await model.open("two");
  expect(model.result).toBeNull();
  expect(model.error).toBe("");
  expect(scene.worn.light).toBeNull();
});

test("a pin is kept with the revision that was read, and two of them are measured", async () => {
  const kept = vi.spyOn(api, "setPins").mockResolvedValue({ revision: 5 });
  const asked = vi.spyOn(api, "tape").mockResolvedValue({ straight_mm: 2, along_mm: 2.5 });
  await model.pins.press([1, 1, 1]);
  expect(kept).not.toHaveBeenCalled(); // no pin is set unless one is asked for
  model.pins.on = true;
  await model.pins.press([2, 0, 0]);
  expect(kept).toHaveBeenCalledWith("one", 4, [
    { place: [0, 0, 0], name: "kept" },
    { place: [2, 0, 0], name: "" },
  ]);
  expect(model.detail?.pins_revision).toBe(5);
  expect(asked).not.toHaveBeenCalled();
  await model.pins.touch(0);
  expect(asked).toHaveBeenCalledWith("one", [2, 0, 0], [0, 0, 0]);
  expect(model.pins.tape?.along_mm).toBe(2.5);
  expect(scene.tape).toEqual([
    [2, 0, 0],
    [0, 0, 0],
  ]);
  await model.open("two");
  expect(model.pins.tape).toBeNull();
  expect(model.pins.all).toEqual([]);
  expect(scene.tape).toBeNull();
});

test("a pin that cannot be kept is not shown, and it is said why", async () => {
  vi.spyOn(api, "setPins").mockRejectedValue(new ApiError("This was edited elsewhere meanwhile.", 409));
  model.pins.on = true;
  await model.pins.press([2, 0, 0]);
  expect(model.pins.all).toHaveLength(1);
  expect(model.pins.error).toContain("elsewhere");
});

test("the second sheet wears its own attempt's colours under the same lens", async () => {
  const other = new FakeScene();
  await model.beside.toggle();
  expect(model.beside.which).toBe("two");
  await model.beside.attach(other as unknown as SheetScene);
  await settle();
  expect(other.worn.rest).toBe(3);
  await model.setLens("space");
  await settle();
  expect([scene.worn.rest, other.worn.rest]).toEqual([2, 4]);
});

const fitted = (id: string) => {
  const made = result(id);
  const fit = (size: string, binds_mm: number) => ({ size, binds_mm, at: [1, 2, 3] });
  return { ...made, document: { ...made.document, child: { fits: [fit("3", 0), fit("2", 0.4)] } } } as Result;
};

test("a crown is laid over, marked where it binds, and taken away again", async () => {
  vi.spyOn(api, "result").mockImplementation(async (id) => fitted(id));
  const asked = vi.spyOn(api, "laidCrown").mockResolvedValue(mesh());
  await model.open("one");
  await model.laid.toggle("2");
  expect(asked).toHaveBeenCalledWith("one", "2");
  expect([model.laid.size, scene.ghosts.crown, scene.places]).toEqual(["2", true, [[1, 2, 3]]]);
  await model.laid.toggle("3");
  expect([model.laid.size, scene.places]).toEqual(["3", []]); // this one goes on: nothing binds
  await model.laid.toggle("3");
  expect([model.laid.size, scene.ghosts.crown]).toEqual([null, false]);
});

test("a crown that comes late for another attempt, or not at all, is not shown", async () => {
  vi.spyOn(api, "result").mockImplementation(async (id) => fitted(id));
  const slow = later<ArrayBuffer>();
  const asked = vi.spyOn(api, "laidCrown").mockReturnValueOnce(slow.promise);
  await model.open("one");
  const laid = model.laid.toggle("2");
  await model.open("two");
  slow.resolve(mesh());
  await laid;
  expect([model.laid.size, scene.ghosts.crown]).toEqual([null, false]);
  asked.mockRejectedValueOnce(new Error("Measure again."));
  await model.laid.toggle("2");
  expect([model.laid.size, model.laid.error]).toEqual([null, "Measure again."]);
  await model.laid.toggle("9"); // not in the set
  expect([model.laid.size, model.laid.error]).toEqual([null, ""]);
});

test("opposing teeth of one attempt never stand over another's preparation", async () => {
  const slow = hold("two opposing");
  await model.opposing.show(true);
  expect(scene.ghosts.opposing).toBe(true);
  await model.open("two");
  expect(scene.ghosts.opposing).toBe(false);
  slow.resolve(mesh());
  await settle();
  expect(scene.ghosts.opposing).toBe(true);
});

test("opposing teeth that come late are dropped once they are not wanted any more", async () => {
  const slow = hold("one opposing");
  const asked = model.opposing.show(true);
  await model.opposing.show(false);
  slow.resolve(mesh());
  await asked;
  expect(scene.ghosts.opposing).toBe(false);
});
