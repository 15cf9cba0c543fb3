import {
  api,
  orNone,
  type ReadingDetail,
  type Case,
  type DecisionDocument,
  type Facts,
  type Job,
  type PlanChoices,
  type PlanDocument,
  type Sequence,
  type Standard,
} from "../../api/client";
import { router } from "../../router.svelte";
import { outlookOf, parseMesh, type MeshData } from "../../sheet/blob";
import type { SheetScene } from "../../sheet/scene";
import { add, unit, vec, type Vec } from "../../sheet/vectors";
import { mesialIsRight, viewFor, viewOf, type Frame, type ViewName } from "../../sheet/views";
import { siteOf } from "../site";
import { Tracked } from "../tracked.svelte";
import { words } from "../vocabulary.svelte";

export type Pressing = "tooth" | "facial" | "outline" | "holes" | null;
export type CavityChoice = NonNullable<PlanChoices["cavity"]>;
export const LEAST_DRAWN = 4;
export const MOST_HOLES = 4;

/** The plan of one attempt's tooth: what is chosen, what came of it. */
export class Planning extends Tracked {
  case = $state<Case | null>(null);
  standards = $state<Standard[]>([]);
  sequences = $state<Sequence[]>([]);
  detail = $state<ReadingDetail | null>(null);
  plan = $state<PlanDocument | null>(null);
  /** Which material the tooth can take, row by row; null where it was not asked yet. */
  decision = $state<DecisionDocument | null>(null);
  decisionStale = $state(false);
  /** Whether it is known if there is a plan: before that none is offered to be made. */
  asked = $state(false);
  targetHash = $state<string | null>(null);
  stale = $state(false);
  pressing = $state<Pressing>(null);
  /** Points of a cavity's outline that is being drawn. */
  stroke = $state<Vec[]>([]);
  chosen = $state(-1);
  view = $state<ViewName | null>("occlusal");
  mirrored = $state(false);
  showTooth = $state(true);
  drawn = $state(0);
  /** Whether the sheet shows what it should: before that a press meets nothing. */
  dressed = $state(false);

  #scene: SheetScene | null = null;

  readonly site = $derived(siteOf(this.case, this.detail?.id ?? router.query.get("attempt")));
  readonly choices = $derived<PlanChoices | null>(this.detail?.plan ?? null);
  /** A prefabricated crown's target ends at the gingiva and has no taper of its own: nothing of that is chosen. */
  readonly forChild = $derived(words.kind(this.site?.restoration)?.primary ?? false);
  readonly isCavity = $derived(words.kind(this.site?.restoration)?.reader === "cavity");
  readonly isPinned = $derived(this.site?.restoration === "pin-casting");
  readonly cavity = $derived<CavityChoice>(
    this.choices?.cavity ?? { boxes: [], covered: null, outline: null },
  );
  readonly preop = $derived(this.detail?.scans.find((s) => s.role === "preop") ?? null);
  readonly frame = $derived<Frame | null>(
    this.plan && {
      occlusal: vec(this.plan.frame.occlusal),
      facial: vec(this.plan.frame.facial),
      mesial: vec(this.plan.frame.mesial),
    },
  );

  /** Whether mesial lies to the right when facial is up and the tooth is seen from its occlusal side. */
  readonly mesialRight = $derived(this.frame === null || mesialIsRight(this.frame));

  /** From where the cut is seen first. */
  get firstView(): ViewName {
    return this.isPinned ? "lingual" : this.site?.restoration === "veneer" ? "facial" : "occlusal";
  }

  attach(scene: SheetScene) {
    this.#scene = scene;
    scene.onDraw = () => (this.drawn += 1);
  }

  async load(caseId: string) {
    try {
      [this.case, this.standards, this.sequences] = await Promise.all([
        api.case(caseId),
        api.standards(),
        api.sequences(),
        words.load(),
      ]);
      const asked = router.query.get("attempt");
      const readings = siteOf(this.case, asked)?.readings ?? [];
      const reading = readings.find((r) => r.id === asked) ?? readings[0];
      if (!reading) return;
      this.detail = await api.reading(reading.id);
      // A tooth is planned once, before the first cut: later attempts look at that plan.
      const first = readings[0];
      if (!this.detail.plan_job && first && first.id !== reading.id) {
        const earlier = await api.reading(first.id);
        if (earlier.plan_job) this.detail = earlier;
      }
      for (const job of [this.detail.plan_job, this.detail.decision_job])
        if (job && (job.state === "waiting" || job.state === "running")) this.#follow(job);
      await this.#show();
    } catch (error) {
      this.say(error);
    }
  }

  async #show() {
    const detail = this.detail;
    if (!detail) return;
    const found = await orNone(api.plan(detail.id));
    this.plan = found?.document ?? null;
    this.asked = true;
    this.targetHash = found?.target_hash ?? null;
    this.stale = found?.stale ?? false;
    await this.#dress();
    const decided = await orNone(api.decision(detail.id));
    this.decision = decided?.document ?? null;
    this.decisionStale = decided?.stale ?? false;
    // First the side that is cut.
    if (this.frame) this.look(this.firstView);
    else if (detail.plan.near) this.#scene?.setMark(vec(detail.plan.near));
  }

  /** The target as a body with the tooth see-through round it; without a target the tooth itself. */
  async #dress() {
    if (!this.preop || !this.#scene) return;
    this.dressed = false;
    const tooth = parseMesh(await api.blob(this.preop.rest_hash));
    const scene = this.#scene;
    if (this.targetHash && this.showTooth) {
      scene.setPrep("rest", parseMesh(await api.blob(this.targetHash)));
      scene.setGhost("tooth", tooth, [0.36, 0.34, 0.3], null);
    } else {
      scene.setPrep("rest", tooth);
      scene.setGhost("tooth", null, [0, 0, 0], null);
    }
    if (!this.frame) this.#overview(tooth);
    // The target wears the colour of what meets, so that it stands out from the tooth round it.
    const body = this.targetHash && this.showTooth;
    const one = (count: number, value: number) => new Float32Array(count).fill(value);
    const count = body ? parseMesh(await api.blob(this.targetHash!)).positions.length / 3 : 0;
    const none = new Float32Array(0);
    scene.setFields(
      "rest",
      body ? { value: one(count, 1), low: one(count, 0), high: none, unseen: none } : null,
    );
    scene.setMode(body ? "judged" : "plain", 0.01);
    scene.setMark(null);
    const line = this.plan?.finish_line;
    scene.setLine(line?.points ?? [], line?.seen.map((seen) => !seen) ?? []);
    this.dressed = true;
  }

  /** Before there is a plan: the whole scan from above, or the tooth that was pressed. */
  #overview(jaw: MeshData) {
    const { middle, out } = outlookOf(jaw);
    const near = this.choices?.near;
    const up = Math.abs(out[1]) < 0.9 ? vec([0, 1, 0]) : vec([1, 0, 0]);
    this.#scene?.look({ eye: out, up }, near ? vec(near) : middle, near ? 24 : 44);
  }

  async toggleTooth() {
    this.showTooth = !this.showTooth;
    await this.#dress();
  }

  look(name: ViewName) {
    if (!this.frame || !this.plan) return;
    this.view = name;
    this.#scene?.look(viewOf(name, this.frame), vec(this.plan.frame.centre), 17);
  }

  screen(place: number[]) {
    return this.#scene?.project(vec(place)) ?? null;
  }

  choose(index: number) {
    const site = this.plan?.sites[index];
    this.chosen = site ? index : -1;
    if (site && this.frame && this.plan)
      this.look(viewFor(vec(site.at), vec(this.plan.frame.centre), this.frame, site.zone));
  }

  /** Look at a place of the target. */
  see(place: number[]) {
    if (!this.frame || !this.plan) return;
    this.chosen = -1;
    this.look(this.isPinned ? "lingual" : viewFor(vec(place), vec(this.plan.frame.centre), this.frame, ""));
    this.#scene?.setMark(vec(place));
  }

  /** A press on the tooth: which tooth it is, or which side is facial. */
  async press(place: Vec | null) {
    if (!place || !this.pressing || !this.choices) return;
    const what = this.pressing;
    if (what === "outline" || what === "holes") {
      this.#stroke(what === "holes" ? [...this.stroke, place].slice(-MOST_HOLES) : [...this.stroke, place]);
      return;
    }
    this.pressing = null;
    if (what === "tooth") await this.change({ near: [...place] });
    else if (this.choices.near)
      await this.change({ facial: [...unit(add(place, vec(this.choices.near), -1))] });
    this.#scene?.setMark(place);
  }

  #stroke(points: Vec[]) {
    this.stroke = points;
    const places = this.pressing === "holes";
    this.#scene?.setStroke(places ? [] : points);
    this.#scene?.setPlaces(places ? points : []);
  }

  /** Point by point on the tooth as it is: an outline as seen from above, the holes for pins from behind. */
  async draw(what: "outline" | "holes") {
    this.pressing = what;
    this.#stroke([]);
    if (this.showTooth) await this.toggleTooth();
    this.look(what === "outline" ? "occlusal" : "lingual");
  }

  undoPoint() {
    this.#stroke(this.stroke.slice(0, -1));
  }

  async leaveDrawing() {
    this.#stroke([]);
    this.pressing = null;
    if (!this.showTooth) await this.toggleTooth();
  }

  async useOutline() {
    const outline = this.stroke.map((p) => [...p]);
    await this.leaveDrawing();
    await this.changeCavity({ outline });
  }

  async useHoles() {
    const holes = this.stroke.map((p) => [...p]);
    await this.leaveDrawing();
    await this.change({ holes });
  }

  async changeCavity(values: Partial<CavityChoice>) {
    await this.change({ cavity: { ...this.cavity, ...values } });
  }

  async change(values: Partial<PlanChoices>) {
    if (!this.detail || !this.choices) return;
    await this.attempt(async () => {
      const detail = this.detail!;
      await api.setPlan(detail.id, detail.plan_revision, { ...this.choices!, ...values });
      this.detail = await api.reading(detail.id);
      if (this.plan) await this.make();
    });
  }

  async changeCase(values: { surface_meaning?: Case["surface_meaning"]; opening?: string }) {
    const now = this.case;
    if (!now) return;
    await this.attempt(async () => {
      this.case = await api.changeCase(now.id, now.revision, {
        notes: now.notes,
        opposing_frame: now.opposing_frame,
        ...values,
      });
      if (this.plan) await this.make();
    });
  }

  async useStandard(id: string) {
    const standard = this.standards.find((s) => s.id === id);
    if (!standard || !this.site) return;
    await this.attempt(async () => {
      this.case = await api.setStandard(this.site!.id, standard.material, id);
      if (this.plan) await this.make();
    });
  }

  /** What no scan shows of the tooth: kept with it, and said on plan, sheet and record. */
  async setFacts(facts: Facts) {
    if (!this.site) return;
    await this.attempt(async () => {
      this.case = await api.setFacts(this.site!.id, facts);
      if (this.plan) await this.make();
    });
  }

  async functional(side: "facial" | "lingual" | null) {
    if (!this.site) return;
    await this.attempt(async () => {
      this.case = await api.setFunctionalSide(this.site!.id, side);
      if (this.plan) await this.make();
    });
  }

  /** One plan by each standard that the tooth may be judged by: a job of its own. */
  async decide() {
    if (!this.detail) return;
    await this.attempt(async () => this.#follow(await api.makeDecision(this.detail!.id)));
  }

  async make() {
    if (!this.detail) return;
    await this.attempt(async () => this.#follow(await api.makePlan(this.detail!.id)));
  }

  leave() {
    this.unwatch();
    this.#scene = null;
  }

  #follow(job: Job) {
    this.watch(job, () => void this.attempt(() => this.#show()));
  }
}
