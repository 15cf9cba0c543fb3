import { api, orNone, type BridgePlanDocument, type ReadingDetail } from "../../api/client";
import { outlookOf, parseMesh } from "../../sheet/blob";
import type { SheetScene } from "../../sheet/scene";
import { add, cross, unit, vec, type Vec } from "../../sheet/vectors";
import { viewOf, type Frame, type ViewName } from "../../sheet/views";
import { Tracked } from "../tracked.svelte";
import { middleOf } from "./bodies";
import type { Shown } from "./state.svelte";

const SPAN_MM = 26;

/** The teeth of an attempt planned as one bridge, before the first cut. */
export class PlannedSpan extends Tracked implements Shown {
  readingId = $state("");
  plan = $state<BridgePlanDocument | null>(null);
  targetHash = $state<string | null>(null);
  stale = $state(false);
  /** Whether it is known if there is a plan: before that none is offered to be made. */
  asked = $state(false);
  view = $state<ViewName>("occlusal");
  drawn = $state(0);
  dressed = $state(false);
  #scene: SheetScene | null = null;
  #preop: string | null = null;

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
    if (this.#scene) await this.#dress();
  }

  async make() {
    await this.attempt(async () => {
      const job = await api.makeBridgePlan(this.readingId);
      this.watch(job, () => void this.attempt(() => this.#show()));
    });
  }

  leave() {
    this.unwatch();
  }

  async attach(scene: SheetScene) {
    this.#scene = scene;
    scene.onDraw = () => (this.drawn += 1);
    await this.attempt(() => this.#dress());
  }

  detach() {
    this.#scene = null;
    this.dressed = false;
  }

  /** The targets as bodies with the teeth see-through round them; the teeth alone where there are none. */
  async #dress() {
    const scene = this.#scene;
    if (!scene || !this.#preop) return;
    const teeth = parseMesh(await api.blob(this.#preop));
    const body = this.targetHash ? parseMesh(await api.blob(this.targetHash)) : null;
    if (scene !== this.#scene) return;
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
    if (!this.plan) return;
    this.view = name;
    const sum = (of: (row: BridgePlanDocument["abutments"][number]) => number[]) =>
      this.plan!.abutments.reduce<Vec>((total, row) => add(total, vec(of(row))), [0, 0, 0]);
    const occlusal = unit(vec(this.plan.direction));
    const facial = unit(
      cross(
        occlusal,
        cross(
          sum((row) => row.facial),
          occlusal,
        ),
      ),
    );
    const frame: Frame = { occlusal, facial, mesial: unit(sum((row) => row.mesial)) };
    const middle = middleOf(this.plan.abutments.map((row) => vec(row.centre)));
    this.#scene?.look(viewOf(name, frame), middle, SPAN_MM);
  }
}
