import {
  api,
  ApiError,
  type AttemptDetail,
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
import type { Detail, SheetScene } from "../../sheet/scene";
import { cross, dot, vec, type Vec } from "../../sheet/vectors";
import { viewFor, viewOf, type Frame, type ViewName } from "../../sheet/views";
import { LENS_NAMES, listed, type LensName } from "./findings";
import type { Document } from "./document";
import { Brush } from "./brush.svelte";
import { Tracked } from "../tracked.svelte";
import { Dress } from "./dress";
import { Hand } from "./hand.svelte";

/** One case on the sheet: what is measured, which lens and finding are looked at. */
export class Examine extends Tracked {
  case = $state<Case | null>(null);
  standards = $state<Standard[]>([]);
  attemptId = $state("");
  detail = $state<AttemptDetail | null>(null);
  result = $state<Result | null>(null);
  lens = $state<LensName>("depth");
  view = $state<ViewName | null>("occlusal");
  mirrored = $state(false);
  chosen = $state(-1);
  showOpposing = $state(false);
  panel = $state<"section" | "form" | null>(null);
  readonly hand: Hand = new Hand(this);
  readonly brush: Brush = new Brush(this);
  list = $state<"findings" | "todo">("findings");
  todo = $state(-1);
  judging = $state(false);
  dressing = $state(0); // how many meshes wait for their colours
  tried = $state<TriedPath | null>(null);
  changes = $state<Changes | null>(null);
  drawn = $state(0);
  firstPictureMs = $state(0);

  readonly dress: Dress = new Dress(this);
  #scene: SheetScene | null = null;
  #began = performance.now();
  #opening = 0; // counts attempts that were opened; what arrives for an earlier one is dropped

  readonly site = $derived<Site | null>(this.case?.sites[0] ?? null);
  readonly document = $derived((this.result?.document as unknown as Document) ?? null);
  readonly report = $derived(this.result?.report ?? null);
  readonly findings = $derived(listed(this.report?.findings ?? [], this.document?.verdicts ?? []));
  readonly unmeasured = $derived(listed(this.report?.unmeasured ?? [], this.document?.verdicts ?? []));
  readonly meets = $derived(this.report?.meets ?? 0);
  readonly untrusted = $derived(
    Object.entries(this.document?.alignment ?? {})
      .filter(([, a]) => a && !a.trusted)
      .map(([role, a]) => ({ role, why: a!.why })),
  );
  /** Whether mesial lies to the right when facial is up and the tooth is seen from its occlusal side. */
  readonly mesialRight = $derived.by(() => {
    const f = this.frame;
    return !f || dot(cross(f.facial, f.occlusal), f.mesial) > 0;
  });
  /** What stands beside the sheet and makes it narrow. */
  readonly beside = $derived(this.panel ?? (this.brush.on ? "try" : null));
  readonly standard = $derived(this.standards.find((s) => s.id === this.site?.standard_id) ?? null);
  readonly number = $derived(this.site?.attempts.find((a) => a.id === this.attemptId)?.number ?? 1);
  readonly frame = $derived<Frame | null>(
    this.document && {
      occlusal: vec(this.document.frame.occlusal),
      facial: vec(this.document.frame.facial),
      mesial: vec(this.document.frame.mesial),
    },
  );
  readonly centre = $derived.by<Vec>(() => {
    const points = this.document?.finish_line.points ?? [];
    const sum: Vec = [0, 0, 0];
    for (const p of points) for (const k of [0, 1, 2] as const) sum[k] += (p[k] ?? 0) / points.length;
    const up = this.document?.frame.occlusal ?? [0, 0, 0];
    return [sum[0] + 2 * (up[0] ?? 0), sum[1] + 2 * (up[1] ?? 0), sum[2] + 2 * (up[2] ?? 0)];
  });

  async load(caseId: string) {
    try {
      [this.case, this.standards] = await Promise.all([api.case(caseId), api.standards()]);
      const asked = router.query.get("attempt");
      const attempts = this.site?.attempts ?? [];
      const attempt = attempts.find((a) => a.id === asked) ?? attempts[0];
      const lens = router.query.get("lens");
      const known = LENS_NAMES.find((name) => name === lens);
      if (known) this.lens = known;
      if (attempt) await this.open(attempt.id);
      const finding = Number(router.query.get("finding") ?? "0");
      if (finding > 0) this.choose(finding - 1);
    } catch (error) {
      this.say(error);
    }
  }

  async open(attemptId: string) {
    this.#began = performance.now();
    const opening = ++this.#opening;
    const left = () => opening !== this.#opening;
    this.unwatch();
    this.job = null;
    this.attemptId = attemptId;
    this.detail = null;
    this.dress.strip();
    this.#scene?.clear();
    this.result = null;
    this.changes = null;
    this.chosen = this.todo = -1;
    this.tried = null;
    this.brush.drop();
    this.error = "";
    router.note({ attempt: attemptId, finding: null });
    try {
      const detail = await api.attempt(attemptId);
      if (left()) return;
      this.detail = detail;
      this.job = this.detail.job;
      if (this.job && (this.job.state === "waiting" || this.job.state === "running")) this.#follow(this.job);
      const prep = this.detail.scans.find((s) => s.role === "prep");
      const mesh = prep ? api.blob(prep.light_hash).then(parseMesh) : null;
      const result = await api.result(attemptId).catch((error: unknown) => {
        if (error instanceof ApiError && error.status === 404) return null;
        throw error;
      });
      const light = await mesh;
      if (left()) return;
      this.result = result;
      if (light) this.#scene?.setPrep("light", light);
      await this.#wear("light");
      if (left()) return;
      this.look("occlusal");
      this.#drawLine();
      this.firstPictureMs = performance.now() - this.#began;
      if (prep) void this.#complete(prep.rest_hash, left);
      void this.#compare(attemptId);
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
  async #compare(attemptId: string) {
    if (!this.result || (this.site?.attempts.length ?? 0) < 2) return;
    const found = await api.changes(attemptId).catch(() => null);
    if (attemptId === this.attemptId) this.changes = found;
  }

  /** Turn the tooth to a place that a row speaks of. */
  show(at: number[] | null, zone: string) {
    if (at && this.frame) this.look(viewFor(vec(at), this.centre, this.frame, zone));
  }

  /** The curve that is being drawn, shown on the tooth. */
  showStroke(points: Vec[]) {
    this.#scene?.setStroke(points);
  }

  attach(scene: SheetScene) {
    this.#scene = this.dress.scene = scene;
    scene.onDraw = () => (this.drawn += 1);
  }

  async setLens(lens: LensName) {
    this.lens = lens;
    this.dress.strip();
    this.#scene?.holdLight(false);
    router.note({ lens });
    this.hand.drop();
    this.#drawLine();
    // The worker that judges edits by hand gets ready while the person looks.
    if (lens === "line" && this.result) void api.makeReady(this.attemptId).catch(() => {});
    await this.#wear("light", "rest");
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
    const count = this.findings.length;
    if (count === 0) return;
    this.chosen = ((index % count) + count) % count;
    router.note({ finding: String(this.chosen + 1) });
    const finding = this.findings[this.chosen];
    if (!finding) return;
    if (finding.lens !== this.lens) void this.setLens(finding.lens);
    if (finding.at && this.frame) this.look(viewFor(vec(finding.at), this.centre, this.frame, finding.zone));
  }

  async measure() {
    await this.attempt(async () => this.#follow(await api.measure(this.attemptId)));
  }

  /** Lock a path, or go back to the best one (null), and judge along it. */
  async usePath(direction: Vec | null) {
    // The undercut comes at once, the whole judgement follows.
    this.tried = direction ? await api.tryPath(this.attemptId, direction).catch(() => null) : null;
    await this.edit("path", (revision) => api.setPath(this.attemptId, revision, direction));
  }

  /** Show how the walls would lean along a path, without keeping it. */
  async tryPath(direction: Vec) {
    await this.dress.tryPath(direction).catch((error: unknown) => this.say(error));
  }

  async undo(kind: EditKind) {
    await this.edit(kind, (revision) => api.undo(this.attemptId, kind, revision));
  }

  async forget(kind: "line" | "gingiva" | "core") {
    await this.edit(kind, (revision) =>
      kind === "line"
        ? api.forgetLine(this.attemptId, revision)
        : api.setCurve(this.attemptId, kind, revision, null),
    );
  }

  /** Send an edit and show what follows from it; the view, the lens and the chosen place stay. */
  async edit(kind: EditKind, send: (revision: number) => Promise<unknown>): Promise<boolean> {
    if (!this.detail || this.judging) return false;
    this.judging = true;
    this.error = "";
    const chosen = this.findings[this.chosen];
    const [id, opening] = [this.attemptId, this.#opening];
    try {
      await send(this.detail.revisions[kind] ?? 0);
      const [detail, result] = await Promise.all([api.attempt(id), api.result(id)]);
      if (opening !== this.#opening) return true;
      [this.detail, this.result] = [detail, result];
      this.dress.strip();
      this.chosen = chosen
        ? this.findings.findIndex((f) => f.criterion === chosen.criterion && f.zone === chosen.zone)
        : -1;
      this.#scene?.holdLight(false);
      void this.#compare(this.attemptId);
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

  /** Step through the worklist: the tooth turns to the view in which the hand sees the place. */
  chooseTodo(index: number) {
    const rows = this.document?.corrections ?? [];
    if (rows.length === 0) return;
    this.todo = ((index % rows.length) + rows.length) % rows.length;
    const row = rows[this.todo];
    if (row) this.show(row.at, row.key.split("|")[1] ?? "");
  }

  /** Tick a correction off by hand, or take the tick away; the next scan tells whether it is done. */
  async tick(key: string) {
    const detail = this.detail;
    if (!detail) return;
    const keys = detail.ticks.includes(key) ? detail.ticks.filter((k) => k !== key) : [...detail.ticks, key];
    try {
      const { revision } = await api.setTicks(detail.id, detail.ticks_revision, keys);
      this.detail = { ...detail, ticks: keys, ticks_revision: revision };
    } catch (error) {
      this.say(error);
    }
  }

  async useStandard(id: string) {
    const standard = this.standards.find((s) => s.id === id);
    if (!standard || !this.site) return;
    try {
      this.case = await api.setStandard(this.site.id, standard.material, id);
      const job = this.site?.attempts.find((a) => a.id === this.attemptId)?.job;
      if (job) this.#follow(job);
    } catch (error) {
      this.say(error);
    }
  }

  async setOpposing(show: boolean) {
    this.showOpposing = show;
    const scan = this.detail?.scans.find((s) => s.role === "opposing");
    if (!show || !scan) {
      this.#scene?.setGhost("opposing", null, [0, 0, 0], null);
      return;
    }
    const matrix = this.document?.alignment.opposing?.matrix ?? null;
    this.#scene?.setGhost("opposing", parseMesh(await api.blob(scan.light_hash)), [0.25, 0.36, 0.5], matrix);
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
    } catch (error) {
      if (opening !== this.#opening) return;
      this.dress.strip();
      this.say(error);
    } finally {
      this.dressing -= 1;
    }
  }

  /** The next attempt: its scans come first. */
  async addAttempt() {
    const site = this.site;
    if (!site) return;
    await this.attempt(async () => {
      this.case = await api.addAttempt(site.id);
      const made = this.site?.attempts.at(-1);
      if (made) router.go(`/case/${this.case.id}/scans?attempt=${made.id}`);
    });
  }

  #follow(job: Job) {
    this.watch(job, () => void this.open(this.attemptId));
  }
}
