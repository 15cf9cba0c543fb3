import { api, orNone, type ReadingDetail, type Result, sentenceOf } from "../../api/client";
import { movedMesh, parseMesh } from "../../sheet/blob";
import type { SheetScene } from "../../sheet/scene";
import { add, dot, type Vec } from "../../sheet/vectors";
import type { Frame, View } from "../../sheet/views";
import { Dress, type Worn } from "./dress";
import { centreOf, frameOf } from "./frame";
import type { Examine } from "./state.svelte";

export const PLANNED = "planned";
interface Eye {
  view: View;
  target: Vec;
  span: number;
}

/** Another attempt, or the planned preparation, on a sheet of its own that turns with the first one. */
export class Beside implements Worn {
  on = $state(false);
  way = $state<"wipe" | "split">("split");
  /** How much of the sheet the first one keeps while wiping, 0 to 1. */
  share = $state(0.5);
  which = $state("");
  detail = $state<ReadingDetail | null>(null);
  result = $state<Result | null>(null);
  error = $state("");
  readonly dressing: Dress = new Dress(this);
  #scene: SheetScene | null = null;
  #asked = 0;

  constructor(readonly model: Examine) {}

  readonly others = $derived.by(() => [
    ...(this.model.site?.readings ?? [])
      .filter((r) => r.id !== this.model.readingId)
      .map((r) => ({ value: r.id, label: `Attempt ${r.number}` })),
    ...(this.model.document?.alignment.preop?.trusted ? [{ value: PLANNED, label: "As planned" }] : []),
  ]);
  readonly offered = $derived.by(() => this.model.document !== null && this.others.length > 0);
  readonly title = $derived.by(() => this.others.find((o) => o.value === this.which)?.label ?? "");

  get lens() {
    return this.model.lens;
  }
  get document() {
    return this.result?.document ?? null;
  }
  get readingId() {
    return this.which;
  }

  async toggle() {
    this.on = !this.on && this.offered;
    if (this.on && !this.others.some((o) => o.value === this.which)) this.which = this.others[0]!.value;
  }

  async attach(scene: SheetScene) {
    this.#scene = this.dressing.scene = scene;
    await this.show(this.which);
  }

  leave() {
    this.#scene = this.dressing.scene = null;
  }

  /** Put another attempt, or the plan, on the second sheet. */
  async show(which: string) {
    const asked = ++this.#asked;
    this.which = which;
    this.error = "";
    this.detail = this.result = null;
    this.dressing.strip();
    this.#scene?.clear();
    try {
      if (which === PLANNED) await this.#showPlan(asked);
      else await this.#showAttempt(which, asked);
    } catch (error) {
      if (asked === this.#asked) this.error = sentenceOf(error);
    }
  }

  async #showAttempt(id: string, asked: number) {
    const detail = await api.reading(id);
    const result = await orNone(api.result(id));
    const prep = detail.scans.find((s) => s.role === "prep");
    if (!prep || !result) throw new Error("That attempt has not been measured yet.");
    const mesh = parseMesh(await api.blob(prep.rest_hash));
    if (asked !== this.#asked || !this.#scene) return;
    [this.detail, this.result] = [detail, result];
    this.#scene.setPrep("rest", mesh);
    this.#scene.setLine(result.document.finish_line.points, result.document.finish_line.doubtful);
    this.#follow();
    await this.dress();
  }

  /** The planned preparation lies in the earlier scan's coordinates: it is moved to where this attempt's scan lies. */
  async #showPlan(asked: number) {
    const first = this.model.site?.readings[0]?.id ?? this.model.readingId;
    const ids = first === this.model.readingId ? [first] : [this.model.readingId, first];
    const plans = await Promise.all(ids.map((id) => api.plan(id).catch(() => null)));
    const hash = plans.find((plan) => plan?.target_hash)?.target_hash;
    const matrix = this.model.document?.alignment.preop?.matrix;
    if (!hash || !matrix) throw new Error("There is no plan with a target surface for this tooth.");
    const mesh = movedMesh(parseMesh(await api.blob(hash)), matrix);
    if (asked !== this.#asked || !this.#scene) return;
    this.#scene.setPrep("rest", mesh);
    this.#follow();
  }

  async dress() {
    if (!this.on || !this.result) return;
    this.dressing.strip();
    try {
      await this.dressing.wear("rest");
    } catch (error) {
      this.dressing.strip();
      this.error = sentenceOf(error);
    }
  }

  #last: Eye | null = null;
  /** Turn as the first sheet turns: each in its own tooth's axes, so that scans in any position look alike. */
  follow(eye: Eye) {
    this.#last = eye;
    this.#follow();
  }

  #follow() {
    const [eye, from] = [this.#last, this.model.frame];
    if (!this.on || !this.#scene || !eye || !from) return;
    const document = this.document;
    const to = document ? frameOf(document) : from;
    const centre = document ? centreOf(document) : this.model.centre;
    const away = add(eye.target, this.model.centre, -1);
    this.#scene.look(
      { eye: carried(eye.view.eye, from, to), up: carried(eye.view.up, from, to) },
      add(centre, carried(away, from, to)),
      eye.span,
    );
  }
}

/** A direction told in one tooth's axes, with the same shares of another's. */
export function carried(direction: Vec, from: Frame, to: Frame): Vec {
  const names = ["occlusal", "facial", "mesial"] as const;
  return names.reduce<Vec>((sum, name) => add(sum, to[name], dot(direction, from[name])), [0, 0, 0]);
}
