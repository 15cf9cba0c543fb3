import type { Pairs } from "../../api/client";
import type { MeshData } from "../../sheet/blob";
import { unit, vec, type Vec } from "../../sheet/vectors";
import type { View } from "../../sheet/views";

export const LEAST = 3;

/** The same places on two scans, pointed at in turn: first on the earlier one, then on the preparation's. */
export class Pointing {
  theirs = $state<Vec[]>([]);
  ours = $state<Vec[]>([]);
  kept = $state(0);

  constructor(given: Pairs | null) {
    this.theirs = (given?.theirs ?? []).map(vec);
    this.ours = (given?.ours ?? []).map(vec);
    this.kept = this.ours.length;
  }

  readonly next = $derived(this.theirs.length > this.ours.length ? "ours" : "theirs");
  readonly empty = $derived(this.theirs.length + this.ours.length === 0);
  readonly enough = $derived(this.ours.length >= LEAST && this.theirs.length === this.ours.length);
  readonly pairs = $derived<Pairs>({
    theirs: this.theirs.map(([x, y, z]) => [x, y, z]),
    ours: this.ours.map(([x, y, z]) => [x, y, z]),
  });
  readonly says = $derived.by(() => {
    if (this.enough) return `${this.ours.length} places on both: keep them, or add another.`;
    return `${this.ours.length} of ${LEAST} places are on both.`;
  });

  /** A place on one of the two. Pressed again on the scan that is ahead, its last place moves. */
  press(on: "theirs" | "ours", place: Vec) {
    const [mine, other] = on === "theirs" ? [this.theirs, this.ours] : [this.ours, this.theirs];
    const now = mine.length > other.length ? [...mine.slice(0, -1), place] : [...mine, place];
    if (on === "theirs") this.theirs = now;
    else this.ours = now;
  }

  /** Take the last place back, on whichever scan it is. */
  back() {
    if (this.theirs.length > this.ours.length) this.theirs = this.theirs.slice(0, -1);
    else if (this.ours.length > this.theirs.length) this.ours = this.ours.slice(0, -1);
    else this.ours = this.ours.slice(0, -1);
  }

  keep() {
    this.kept = this.ours.length;
  }

  forget() {
    this.theirs = this.ours = [];
    this.kept = 0;
  }
}

/** A view of a whole scan from where most of it faces, which is about its occlusal side: a scan is an open shell. */
export function whole(mesh: MeshData): { view: View; middle: Vec; span: number } {
  const { positions, normals } = mesh;
  const low: Vec = [Infinity, Infinity, Infinity];
  const high: Vec = [-Infinity, -Infinity, -Infinity];
  const sum: Vec = [0, 0, 0];
  for (let i = 0; i < positions.length; i += 3) {
    for (const k of [0, 1, 2] as const) {
      low[k] = Math.min(low[k], positions[i + k]!);
      high[k] = Math.max(high[k], positions[i + k]!);
      sum[k] += normals[i + k]!;
    }
  }
  const middle: Vec = [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, (low[2] + high[2]) / 2];
  const size = Math.hypot(high[0] - low[0], high[1] - low[1], high[2] - low[2]);
  const eye = unit(sum);
  const up: Vec = Math.abs(eye[1]) < 0.8 ? [0, 1, 0] : [0, 0, 1];
  return { view: { eye, up }, middle, span: Math.min(size, 80) * 0.8 };
}
