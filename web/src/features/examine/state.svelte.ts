import {
  api,
  orNone,
  type ReadingDetail,
  type Case,
  type Changes,
  type EditKind,
  type Job,
  type Result,
  type Site,
  type Standard,
  type TriedPath,
} from "../../api/client";
import { router } from "../../router.svelte";
import { parseMesh } from "../../sheet/blob";
import type { ContourNumber } from "../../sheet/contours";
import type { Detail, SheetScene } from "../../sheet/scene";
import { vec, type Vec } from "../../sheet/vectors";
import { mesialIsRight, viewFor, viewOf, type Frame, type ViewName } from "../../sheet/views";
import type { Reading } from "../../sheet/worn";
import { listed, rowsOf } from "./findings";
import { centreOf, frameOf } from "./frame";
import { Beside } from "./beside.svelte";
import { Brush } from "./brush.svelte";
import { readingAt, siteOf } from "../site";
import { Tracked } from "../tracked.svelte";
import { words } from "../vocabulary.svelte";
import { Dress } from "./dress";
import { Hand } from "./hand.svelte";
import { LaidCrown } from "./laid.svelte";
import { Movements } from "./movements.svelte";
import { Newcomers } from "./newcomers.svelte";
import { Opposing } from "./opposing.svelte";
import { Pins } from "./pins.svelte";
import { readingText } from "./reading";
import type { Cut } from "./section";
import { Terms } from "./terms.svelte";
import { Worklist } from "./worklist.svelte";

/** What is read at a place of the sheet, in words. */
export interface Spot {
  x: number;
  y: number;
  text: string;
}

/** One case on the sheet: what is measured, which lens and finding are looked at. */
export class Examine extends Tracked {
  case = $state<Case | null>(null);
  standards = $state<Standard[]>([]);
  readingId = $state("");
  detail = $state<ReadingDetail | null>(null);
  result = $state<Result | null>(null);
  lens = $state("depth");
  view = $state<ViewName | null>("occlusal");
  mirrored = $state(false);
  chosen = $state(-1);
  panel = $state<"section" | "form" | null>(null);
  readonly hand: Hand = new Hand(this);
  readonly brush: Brush = new Brush(this);
  readonly pins: Pins = new Pins(this);
  readonly beside: Beside = new Beside(this);
  readonly movements: Movements = new Movements(this);
  readonly laid: LaidCrown = new LaidCrown(this);
  readonly opposing: Opposing = new Opposing(this);
  readonly todo: Worklist = new Worklist(this);
  readonly terms: Terms = new Terms(this);
  readonly newcomers: Newcomers = new Newcomers(this);
  cut = $state<Cut>({ angle_deg: 0, offset_mm: 0 }); // of the section
  list = $state<"findings" | "todo">("findings");
  judging = $state(false);
  dressing = $state(0); // how many meshes wait for their colours
  tried = $state<TriedPath | null>(null);
  changes = $state<Changes | null>(null);
  drawn = $state(0);
  worn = $state(0); // counts what the tooth has been given to wear
  firstPictureMs = $state(0);
  numbers = $state.raw<ContourNumber[]>([]); // that stand on the contour lines
  reading = $state.raw<Spot | null>(null); // under the pointer

  readonly dress: Dress = new Dress(this);
  #scene: SheetScene | null = null;
  #began = performance.now();
  #opening = 0; // counts attempts that were opened; what arrives for an earlier one is dropped

  readonly site = $derived<Site | null>(siteOf(this.case, this.readingId));
  readonly document = $derived(this.result?.document ?? null);
  readonly report = $derived(this.result?.report ?? null);
  readonly findings = $derived(listed(this.report?.findings ?? [], this.document?.verdicts ?? []));
  readonly rows = $derived(rowsOf(this.report?.places ?? [], this.findings));
  readonly unmeasured = $derived(listed(this.report?.unmeasured ?? [], this.document?.verdicts ?? []));
  readonly meets = $derived(this.report?.meets ?? 0);
  readonly untrusted = $derived(
    Object.entries(this.document?.alignment ?? {})
      .filter(([, a]) => a && !a.trusted)
      .map(([role, a]) => ({ role, why: a!.why })),
  );
  /** From where the cut is seen first: a veneer's from its face. */
  get firstView(): ViewName {
    return this.document?.veneer ? "facial" : "occlusal";
  }

  /** Whether mesial lies to the right when facial is up and the tooth is seen from its occlusal side. */
  readonly mesialRight = $derived.by(() => this.frame === null || mesialIsRight(this.frame));
  /** What stands beside the sheet and makes it narrow. */
  readonly aside = $derived(this.panel ?? (this.brush.on ? "try" : null));
  /** In the order of their keys; the last pass only where there was one before. */
  readonly lenses = $derived(
    words.lensesOf(this.site?.restoration).filter((one) => one.field !== "change" || this.number > 1),
  );
  readonly standard = $derived(this.standards.find((s) => s.id === this.site?.standard_id) ?? null);
  readonly number = $derived(this.site?.readings.find((a) => a.id === this.readingId)?.number ?? 1);
  readonly frame = $derived<Frame | null>(this.document && frameOf(this.document));
  readonly centre = $derived<Vec>(centreOf(this.document));

  async load(caseId: string) {
    try {
      [this.case, this.standards] = await Promise.all([api.case(caseId), api.standards(), words.load()]);
      const asked = router.query.get("attempt");
      const readings = siteOf(this.case, asked)?.readings ?? [];
      const reading = readings.find((r) => r.id === asked) ?? readings[0];
      const lens = router.query.get("lens");
      if (words.lens(lens)) this.lens = lens!;
      if (reading) await this.open(reading.id);
      const finding = Number(router.query.get("finding") ?? "0");
      if (finding > 0) this.choose(finding - 1);
    } catch (error) {
      this.say(error);
    }
  }

  async open(readingId: string) {
    this.#began = performance.now();
    const opening = ++this.#opening;
    const left = () => opening !== this.#opening;
    this.unwatch();
    this.job = null;
    this.readingId = readingId;
    this.detail = null;
    this.dress.strip();
    this.#scene?.clear();
    this.result = null;
    this.changes = null;
    this.chosen = -1;
    this.todo.leave();
    this.tried = null;
    this.brush.drop();
    this.pins.leave();
    this.movements.rest();
    this.laid.leave();
    this.opposing.leave();
    this.showTape(null);
    this.error = "";
    router.note({ attempt: readingId, finding: null });
    try {
      const detail = await api.reading(readingId);
      if (left()) return;
      this.detail = detail;
      this.job = this.detail.job;
      if (this.job && (this.job.state === "waiting" || this.job.state === "running")) this.follow(this.job);
      const prep = this.detail.scans.find((s) => s.role === "prep");
      const mesh = prep ? api.blob(prep.light_hash).then(parseMesh) : null;
      const result = await orNone(api.result(readingId));
      const light = await mesh;
      if (left()) return;
      this.result = result;
      if (light) this.#scene?.setPrep("light", light);
      await this.#wear("light");
      if (left()) return;
      this.look(this.firstView);
      this.#drawLine();
      void this.opposing.show(this.opposing.shown).catch((error: unknown) => this.say(error));
      this.firstPictureMs = performance.now() - this.#began;
      if (prep) void this.#complete(prep.rest_hash, left);
      void this.#compare(readingId);
    } catch (error) {
      if (!left()) this.say(error);
    }
  }

  async #complete(hash: string, left: () => boolean) {
    try {
      const data = parseMesh(await api.blob(hash));
      if (left()) return; // another attempt was opened meanwhile
      this.#scene?.setPrep("rest", data);
    } catch (error) {
      if (!left()) this.say(error);
      return;
    }
    await this.#wear("rest");
  }

  /** What the last pass changed; attempts that were judged unlike have nothing to compare. */
  async #compare(readingId: string) {
    if (!this.result || (this.site?.readings.length ?? 0) < 2) return;
    const found = await api.changes(readingId).catch(() => null);
    if (readingId === this.readingId) this.changes = found;
  }

  /** Open a panel beside the sheet, or close it. */
  togglePanel(panel: "section" | "form") {
    this.panel = this.panel === panel ? null : panel;
  }

  /** Turn the tooth to a place that a row speaks of. */
  show(at: number[] | null, zone: string) {
    if (!at || !this.frame) return;
    const best = viewFor(vec(at), this.centre, this.frame, zone);
    this.look(best === "occlusal" ? this.firstView : best);
  }

  /** Turn the tooth to a stretch that is better scanned again, and mark its middle; null takes the mark away. */
  showRescan(row: { at: number[]; view: string } | null) {
    this.#scene?.setMark(row ? vec(row.at) : null);
    if (row) this.look(row.view as ViewName);
  }

  /** The curve that is being drawn, shown on the tooth. */
  showStroke(points: Vec[]) {
    this.#scene?.setStroke(points);
  }

  attach(scene: SheetScene) {
    this.#scene = this.dress.scene = scene;
    scene.onDraw = () => {
      this.drawn += 1;
      this.beside.follow(scene.eye);
    };
  }

  async setLens(lens: string) {
    this.lens = lens;
    this.numbers = [];
    this.dress.strip();
    this.#scene?.holdLight(false);
    router.note({ lens });
    this.hand.drop();
    this.#drawLine();
    // The worker that judges edits by hand gets ready while the person looks.
    if (lens === "line" && this.result) void api.makeReady(this.readingId).catch(() => {});
    await Promise.all([this.#wear("light", "rest"), this.beside.dress()]);
  }

  #drawLine() {
    const line = this.document?.finish_line;
    this.#scene?.setLine(line?.points ?? [], line?.doubtful ?? [], this.lens === "line");
    this.#scene?.setCurves(this.lens === "line" ? [this.detail?.gingiva, this.detail?.core] : []);
  }

  /** A ball on the finish line at an azimuth, or none. */
  markAt(azimuth_deg: number | null) {
    const points = this.document?.finish_line.points ?? [];
    const point =
      azimuth_deg === null ? null : points[Math.round((azimuth_deg / 360) * points.length) % points.length];
    this.#scene?.setMark(point ? vec(point) : null);
  }

  look(name: ViewName) {
    if (!this.frame) return;
    this.view = name;
    this.#scene?.look(viewOf(name, this.frame), this.centre, name === "occlusal" ? 19 : 17);
  }

  choose(index: number) {
    const count = this.rows.length;
    if (count === 0) return;
    this.chosen = ((index % count) + count) % count;
    router.note({ finding: String(this.chosen + 1) });
    const first = this.rows[this.chosen]?.findings[0];
    if (!first) return;
    if (first.lens && first.lens !== this.lens) void this.setLens(first.lens);
    this.show(first.at ?? null, first.zone);
  }

  async measure() {
    await this.attempt(async () => this.follow(await api.measure(this.readingId)));
  }

  /** Lock a path, or go back to the best one (null), and judge along it. */
  async usePath(direction: Vec | null) {
    // The undercut comes at once, the whole judgement follows.
    this.tried = direction ? await api.tryPath(this.readingId, direction).catch(() => null) : null;
    await this.edit("path", (revision) => api.setPath(this.readingId, revision, direction));
  }

  /** Show how the walls would lean along a path, without keeping it. */
  async tryPath(direction: Vec) {
    await this.dress.tryPath(direction).catch((error: unknown) => this.say(error));
  }

  async undo(kind: EditKind) {
    await this.edit(kind, (revision) => api.undo(this.readingId, kind, revision));
  }

  async forget(kind: "line" | "gingiva" | "core") {
    await this.edit(kind, (revision) =>
      kind === "line"
        ? api.forgetLine(this.readingId, revision)
        : api.setCurve(this.readingId, kind, revision, null),
    );
  }

  /** Send an edit and show what follows from it; the view, the lens and the chosen place stay. */
  async edit(kind: EditKind, send: (revision: number) => Promise<unknown>): Promise<boolean> {
    if (!this.detail || this.judging) return false;
    this.judging = true;
    this.error = "";
    const chosen = this.rows[this.chosen];
    const [id, opening] = [this.readingId, this.#opening];
    try {
      await send(this.detail.revisions[kind] ?? 0);
      const [detail, result] = await Promise.all([api.reading(id), api.result(id)]);
      if (opening !== this.#opening) return true;
      [this.detail, this.result] = [detail, result];
      this.dress.strip();
      this.chosen = chosen ? this.rows.findIndex((row) => row.where === chosen.where) : -1;
      this.#scene?.holdLight(false);
      void this.#compare(this.readingId);
      this.#drawLine();
      await this.#wear("light", "rest");
      return true;
    } catch (error) {
      if (opening !== this.#opening) return false;
      this.say(error);
      this.#scene?.holdLight(false);
      await this.#wear("light");
      return false;
    } finally {
      this.judging = false;
    }
  }

  /** From one contour line of the lens to the next, mm. */
  get contourMm(): number {
    return words.lens(this.lens)?.contour_mm ?? 0.1;
  }

  /** What each pin reads under the chosen lens, in its words. */
  readonly pinTexts = $derived.by(() => {
    void this.worn;
    const scene = this.#scene;
    if (this.dressing) return [];
    return this.pins.all.map((pin) => this.#said(scene?.readPlace(vec(pin.place)) ?? null));
  });

  #said(found: Reading | null): string {
    return readingText(words.lens(this.lens), found, this.dress.doubt, this.dress.allowed);
  }

  /** A tape held between two places, or none. */
  showTape(ends: [Vec, Vec] | null) {
    this.#scene?.setTape(ends);
  }

  /** What the tooth says under a canvas point; null takes it away. */
  readAt(at: { x: number; y: number; left: number } | null) {
    const found = at && this.#scene ? this.#scene.read(at.x, at.y) : null;
    const text = this.#said(found);
    this.reading = at && text ? { x: at.left, y: at.y, text } : null;
  }

  screen(place: number[]) {
    return this.#scene?.project(vec(place)) ?? null;
  }

  plane(corners: Vec[] | null) {
    this.#scene?.setPlane(corners);
  }

  leave() {
    this.unwatch();
    this.#scene = this.dress.scene = null;
  }

  /** What cannot be fetched or does not fit is said; the tooth then wears nothing. */
  async #wear(...details: Detail[]) {
    const opening = this.#opening;
    this.dressing += 1;
    try {
      for (const detail of details) await this.dress.wear(detail);
      this.worn += 1;
      if (opening === this.#opening) this.numbers = this.#scene?.numbers(this.contourMm) ?? [];
    } catch (error) {
      if (opening !== this.#opening) return;
      this.dress.strip();
      this.say(error);
    } finally {
      this.dressing -= 1;
    }
  }

  /** Another tooth of the case, in the same attempt. */
  async openTooth(site: Site) {
    const there = readingAt(site, this.number);
    if (there) await this.open(there.id);
  }

  /** A measurement of what is on the sheet is under way: once it is done, its result is shown. */
  follow(job: Job) {
    this.watch(job, () => void this.open(this.readingId));
  }
}
