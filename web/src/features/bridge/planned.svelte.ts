import { api, orNone, type BridgePlanDocument, type ReadingDetail } from "../../api/client";
import { outlookOf, parseMesh } from "../../sheet/blob";
import { add, vec, type Vec } from "../../sheet/vectors";
import type { ViewName } from "../../sheet/views";
import { pathOf, type Tilt } from "../examine/form";
import { frameAlong, Shown } from "./shown.svelte";

const SPAN_MM = 26;

/** The teeth of an attempt planned as one bridge, before the first cut. */
export class PlannedSpan extends Shown {
  readingId = $state("");
  plan = $state<BridgePlanDocument | null>(null);
  targetHash = $state<string | null>(null);
  stale = $state(false);
  /** Whether it is known if there is a plan: before that none is offered to be made. */
  asked = $state(false);
  #preop: string | null = null;
  #revision = 0;

  /** Whether a person chose the path, not the tool. */
  readonly byHand = $derived(this.plan?.ways[0]?.name === "as chosen");

  /** The abutments' numbers where they stand. */
  readonly labels = $derived(
    this.plan?.abutments.map((one) => ({
      text: one.tooth,
      at: add(vec(one.centre), vec(one.facial), 6),
      bad: !one.plan.meets,
    })) ?? [],
  );

  async load(detail: ReadingDetail) {
    this.readingId = detail.id;
    this.#revision = detail.plan_revision;
    this.#preop = detail.scans.find((s) => s.role === "preop")?.rest_hash ?? null;
    const job = detail.bridge_plan_job;
    if (job && (job.state === "waiting" || job.state === "running"))
      this.watch(job, () => void this.attempt(() => this.#show()));
    await this.attempt(() => this.#show());
  }

  async #show() {
    const found = await orNone(api.bridgePlan(this.readingId));
    this.plan = found?.document ?? null;
    this.targetHash = found?.target_hash ?? null;
    this.stale = found?.stale ?? false;
    this.asked = true;
    if (this.scene) await this.dress();
  }

  async make() {
    await this.attempt(async () => {
      const job = await api.makeBridgePlan(this.readingId);
      this.watch(job, () => void this.attempt(() => this.#show()));
    });
  }

  /** Plan along a path of one's own, or (null) along the one that takes least. */
  async along(path: Vec | null) {
    await this.attempt(async () => {
      this.#revision = (await api.setBridgePath(this.readingId, this.#revision, path)).revision;
      await this.make();
    });
  }

  /** The path leaned from where it stands, seen along the row of abutments. */
  async lean(tilt: Tilt) {
    if (this.plan) await this.along(pathOf(tilt, this.#frame(this.plan)));
  }

  #frame(plan: BridgePlanDocument) {
    const ways = plan.abutments.map((row) => ({ facial: vec(row.facial), mesial: vec(row.mesial) }));
    return frameAlong(vec(plan.direction), ways);
  }

  /** The targets as bodies with the teeth see-through round them; the teeth alone where there are none. */
  protected async dress() {
    const scene = this.scene;
    if (!scene || !this.#preop) return;
    const teeth = parseMesh(await api.blob(this.#preop));
    const body = this.targetHash ? parseMesh(await api.blob(this.targetHash)) : null;
    if (scene !== this.scene) return;
    scene.setPrep("rest", body ?? teeth);
    scene.setGhost("teeth", body ? teeth : null, [0.36, 0.34, 0.3], null);
    const all = (value: number) => new Float32Array((body?.positions.length ?? 0) / 3).fill(value);
    const none = new Float32Array(0);
    scene.setFields("rest", body ? { value: all(1), low: all(0), high: none, unseen: none } : null);
    scene.setMode(body ? "judged" : "plain", 0.01);
    if (this.plan) this.look(this.view);
    else {
      const { middle, out } = outlookOf(teeth);
      scene.look({ eye: out, up: Math.abs(out[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0] }, middle, 44);
    }
    this.dressed = true;
  }

  look(name: ViewName) {
    const plan = this.plan;
    if (!plan) return;
    const middles = plan.abutments.map((row) => vec(row.centre));
    this.turn(name, this.#frame(plan), middles, SPAN_MM);
  }
}
