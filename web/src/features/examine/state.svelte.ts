import {
  api,
  ApiError,
  watchJob,
  type AttemptDetail,
  type Case,
  type Job,
  type Result,
  type Site,
  type Standard,
} from "../../api/client";
import { router } from "../../router.svelte";
import { parseMesh } from "../../sheet/blob";
import type { Detail, Fields, SheetScene } from "../../sheet/scene";
import { cross, dot, vec, type Vec } from "../../sheet/vectors";
import { viewFor, viewOf, type Frame, type ViewName } from "../../sheet/views";
import { attention, LENS_NAMES, LENS_OF, unmeasured, type LensName, type Verdict } from "./findings";
import type { LineSample, TaperRow } from "./form";

interface Document {
  tooth: string;
  standard: { id: string; version: number };
  frame: { occlusal: number[]; facial: number[]; mesial: number[]; confidence: number };
  path: { direction: number[]; least_draft_deg: number | null; source: "best" | "given" };
  alignment: Record<
    string,
    { matrix: number[][]; u_align_um: number | null; trusted: boolean; why: string } | null
  >;
  finish_line: {
    points: number[][];
    doubtful: boolean[];
    samples: LineSample[];
    steps: { azimuth_deg: number; height_mm: number }[];
    lips: { from_deg: number; to_deg: number; height_mm: number }[];
    width_mm: { low: number; median: number; high: number } | null;
  };
  convergence: {
    faciolingual_deg: number | null;
    mesiodistal_deg: number | null;
    by_azimuth: TaperRow[];
  } | null;
  clearance: { bite: { ok: boolean; note: string } } | null;
  uncertainty: { U_mm: number };
  verdicts: Verdict[];
  warnings: string[];
}

const UNDERCUT_ALLOWED_MM = 0.05;
const UNDERCUT_U_MM = 0.026;

/** One case on the sheet: what is measured, which lens and finding are looked at. */
export class Examine {
  case = $state<Case | null>(null);
  standards = $state<Standard[]>([]);
  attemptId = $state("");
  detail = $state<AttemptDetail | null>(null);
  result = $state<Result | null>(null);
  job = $state<Job | null>(null);
  error = $state("");
  lens = $state<LensName>("depth");
  view = $state<ViewName | null>("occlusal");
  mirrored = $state(false);
  chosen = $state(-1);
  showOpposing = $state(false);
  panel = $state<"section" | "form" | null>(null);
  drawn = $state(0);
  firstPictureMs = $state(0);

  #scene: SheetScene | null = null;
  #unwatch: () => void = () => {};
  #began = performance.now();

  readonly site = $derived<Site | null>(this.case?.sites[0] ?? null);
  readonly document = $derived((this.result?.document as unknown as Document) ?? null);
  readonly findings = $derived(this.document ? attention(this.document.verdicts) : []);
  readonly unmeasured = $derived(this.document ? unmeasured(this.document.verdicts) : []);
  readonly meets = $derived(
    this.document?.verdicts.filter((v) => v.status === "meets" && v.criterion !== "alignment").length ?? 0,
  );
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
  readonly standard = $derived(this.standards.find((s) => s.id === this.site?.standard_id) ?? null);
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
      this.#say(error);
    }
  }

  async open(attemptId: string) {
    this.#began = performance.now();
    this.#unwatch();
    this.attemptId = attemptId;
    this.result = null;
    this.chosen = -1;
    this.error = "";
    router.note({ attempt: attemptId, finding: null });
    try {
      this.detail = await api.attempt(attemptId);
      this.job = this.detail.job;
      if (this.job && (this.job.state === "waiting" || this.job.state === "running")) this.#watch(this.job);
      const prep = this.detail.scans.find((s) => s.role === "prep");
      const mesh = prep ? api.blob(prep.light_hash).then(parseMesh) : null;
      this.result = await api.result(attemptId).catch((error: unknown) => {
        if (error instanceof ApiError && error.status === 404) return null;
        throw error;
      });
      if (mesh) this.#scene?.setPrep("light", await mesh);
      await this.#dress("light");
      this.look("occlusal");
      this.#drawLine();
      this.firstPictureMs = performance.now() - this.#began;
      if (prep) void this.#complete(prep.rest_hash, attemptId);
    } catch (error) {
      this.#say(error);
    }
  }

  async #complete(hash: string, attemptId: string) {
    const data = parseMesh(await api.blob(hash));
    if (attemptId !== this.attemptId) return; // another attempt was opened meanwhile
    this.#scene?.setPrep("rest", data);
    await this.#dress("rest");
  }

  attach(scene: SheetScene) {
    this.#scene = scene;
    scene.onDraw = () => (this.drawn += 1);
  }

  async #dress(detail: Detail) {
    const hashes = this.result?.fields;
    if (!hashes || !this.#scene) return;
    const get = async (name: string) => {
      const digest = hashes[`${detail}/${name}`];
      return new Float32Array(digest ? await api.blob(digest) : new ArrayBuffer(0));
    };
    const depth = this.lens === "depth";
    if (this.lens === "line") {
      this.#scene.setFields(detail, null);
      this.#scene.setJudged(false, 0);
      return;
    }
    const none = new Float32Array(0);
    const [value, low, high, unseen] = await Promise.all([
      get(this.lens),
      get("depth_min"),
      depth ? get("depth_max") : none,
      depth ? get("unseen") : none,
    ]);
    // Draw: depth under an overhang counts down from nought, and cement space allows a little of it.
    const fields: Fields = {
      value,
      low: this.lens === "draw" ? value.map(() => -UNDERCUT_ALLOWED_MM) : low,
      high,
      unseen,
    };
    this.#scene.setFields(detail, fields);
    this.#scene.setJudged(
      true,
      this.lens === "draw" ? UNDERCUT_U_MM : (this.document?.uncertainty.U_mm ?? 0.03),
    );
  }

  async setLens(lens: LensName) {
    this.lens = lens;
    router.note({ lens });
    this.#drawLine();
    await this.#dress("light");
    await this.#dress("rest");
  }

  #drawLine() {
    const line = this.document?.finish_line;
    this.#scene?.setLine(line?.points ?? [], line?.doubtful ?? [], this.lens === "line");
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
    const lens = LENS_OF[finding.criterion];
    if (lens && lens !== this.lens) void this.setLens(lens);
    if (finding.at && this.frame) this.look(viewFor(vec(finding.at), this.centre, this.frame, finding.zone));
  }

  async measure() {
    this.error = "";
    try {
      this.#watch(await api.measure(this.attemptId));
    } catch (error) {
      this.#say(error);
    }
  }

  /** Lock a path, or go back to the best one (null), and measure along it. */
  async usePath(direction: Vec | null) {
    if (!this.detail) return;
    try {
      const { revision } = await api.setPath(this.attemptId, this.detail.path_revision, direction);
      this.detail = { ...this.detail, path: direction, path_revision: revision };
      await this.measure();
    } catch (error) {
      this.#say(error);
    }
  }

  async cancel() {
    if (this.job) this.job = await api.cancel(this.job.id);
  }

  async useStandard(id: string) {
    const standard = this.standards.find((s) => s.id === id);
    if (!standard || !this.site) return;
    try {
      this.case = await api.setStandard(this.site.id, standard.material, id);
      const job = this.site?.attempts.find((a) => a.id === this.attemptId)?.job;
      if (job) this.#watch(job);
    } catch (error) {
      this.#say(error);
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
    this.#unwatch();
    this.#scene = null;
  }

  #watch(job: Job) {
    this.#unwatch();
    this.job = job;
    this.#unwatch = watchJob(job, (now) => {
      this.job = now;
      if (now.state === "failed") this.error = now.error;
      if (now.state === "done") void this.open(this.attemptId);
    });
  }

  #say(error: unknown) {
    this.error = error instanceof Error ? error.message : String(error);
  }
}
