import { api } from "../../api/client";
import { add, dot, vec, type Vec } from "../../sheet/vectors";
import type { Examine } from "./state.svelte";

export type Tool = "pull" | "line" | "gingiva" | "core";

const HANDLE_DEG = 10;
const PULL_MM = 3; // a press further from a handle than this does not mean it
const CLOSE_TURN_DEG = 300; // a stroke that goes round this far is a ring

/** What the hand draws in the finish line lens: it pulls the line, or puts points along a curve. */
export class Hand {
  tool = $state<Tool>("pull");
  snap = $state(true);
  stroke = $state<Vec[]>([]);
  readonly #case: Examine;

  constructor(examined: Examine) {
    this.#case = examined;
  }

  /** Handles on the finish line, one every HANDLE_DEG. */
  readonly handles = $derived.by(() => {
    const points = this.#case.document?.finish_line.points ?? [];
    const every = Math.max(1, Math.round((points.length * HANDLE_DEG) / 360));
    return points.filter((_, k) => k % every === 0).map(vec);
  });

  /** A still press on the tooth, with a tool of the finish line lens. */
  async press(place: Vec | null) {
    if (!place || this.#case.lens !== "line" || this.#case.judging || this.#case.beside.on) return;
    if (this.tool !== "pull") {
      this.stroke = [...this.stroke, place];
      this.#case.showStroke(this.stroke);
      return;
    }
    const gaps = this.handles.map((h) => Math.hypot(h[0] - place[0], h[1] - place[1], h[2] - place[2]));
    const near = gaps.indexOf(Math.min(...gaps));
    if (near >= 0 && (gaps[near] ?? 99) < PULL_MM) await this.pull(near, place);
  }

  /** Put the line through a place, from the handle before to the one after; without a place it finds its own way. */
  async pull(handle: number, place: Vec | null) {
    const n = this.handles.length;
    if (n < 6) return;
    const ends = [this.handles[(handle - 1 + n) % n]!, this.handles[(handle + 1) % n]!];
    const points = place ? [ends[0]!, place, ends[1]!] : [ends[0]!, ends[1]!];
    await this.#case.edit("line", (revision) =>
      api.drawLine(this.#case.readingId, revision, { points, snap: place ? this.snap : true, closed: false }),
    );
  }

  takeBack() {
    this.stroke = this.stroke.slice(0, -1);
    this.#case.showStroke(this.stroke);
  }

  drop() {
    this.stroke = [];
    this.#case.showStroke([]);
  }

  /** Whether the stroke's points go round the tooth. */
  readonly closes = $derived.by(() => {
    const { frame, centre } = this.#case;
    if (!frame || this.stroke.length < 6) return false;
    const angles = this.stroke.map((p) => {
      const off = add(p, centre, -1);
      return (Math.atan2(dot(off, frame.mesial), dot(off, frame.facial)) * 180) / Math.PI;
    });
    const turns = angles.map((a, k) => ((((a - angles[(k || 1) - 1]!) % 360) + 540) % 360) - 180);
    return Math.abs(turns.slice(1).reduce((sum, t) => sum + t, 0)) > CLOSE_TURN_DEG;
  });

  /** Keep what was drawn: a stretch or the whole of the finish line, the gingiva's line, a core's border. */
  async keep() {
    const [points, tool, closed] = [this.stroke, this.tool, this.closes];
    if (tool === "pull" || points.length < 2) return;
    const kept =
      tool === "line"
        ? await this.#case.edit("line", (revision) =>
            api.drawLine(this.#case.readingId, revision, { points, snap: this.snap, closed }),
          )
        : await this.#case.edit(tool, (revision) =>
            api.setCurve(this.#case.readingId, tool, revision, points),
          );
    if (kept) this.drop();
  }
}
