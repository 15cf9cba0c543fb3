import { api, type Predicted, sentenceOf } from "../../api/client";
import { vec, type Vec } from "../../sheet/vectors";
import type { Examine } from "./state.svelte";

export interface BurStroke {
  points: number[][];
  depth_mm: number;
  diameter_mm: number;
}
const JOIN_MM = 3; // a press further from the last one begins another stroke

/** Strokes of a bur tried on the sheet: what they would change, without touching the tooth. */
export class Brush {
  on = $state(false);
  depth_mm = $state(0.5);
  diameter_mm = $state(1.6);
  strokes = $state<BurStroke[]>([]);
  predicted = $state<Predicted | null>(null);
  busy = $state(false);
  error = $state("");

  constructor(readonly model: Examine) {}

  toggle() {
    if (this.on) return this.drop();
    this.on = true;
    void api.makeReady(this.model.readingId).catch(() => {});
  }

  drop() {
    this.on = false;
    this.strokes = [];
    this.predicted = null;
    this.error = "";
    this.model.showStroke([]);
  }

  press(place: Vec | null) {
    if (!place || !this.on) return;
    const last = this.strokes.at(-1);
    const end = last?.points.at(-1);
    const near = end && Math.hypot(...place.map((v, k) => v - end[k]!)) < JOIN_MM;
    const same = last?.depth_mm === this.depth_mm && last.diameter_mm === this.diameter_mm;
    if (last && near && same) last.points.push([...place]);
    else this.strokes.push({ points: [[...place]], depth_mm: this.depth_mm, diameter_mm: this.diameter_mm });
    this.#shown();
  }

  back() {
    const last = this.strokes.at(-1);
    last?.points.pop();
    if (last?.points.length === 0) this.strokes.pop();
    this.#shown();
  }

  async ask() {
    if (this.strokes.length === 0 || this.busy) return;
    this.busy = true;
    this.error = "";
    try {
      this.predicted = await api.predict(this.model.readingId, $state.snapshot(this.strokes));
    } catch (error) {
      this.error = sentenceOf(error);
    } finally {
      this.busy = false;
    }
  }

  #shown() {
    this.predicted = null;
    this.model.showStroke(this.strokes.flatMap((s) => s.points.map(vec)));
  }
}
