import type { Pairs } from "../../api/client";
import { vec, type Vec } from "../../sheet/vectors";

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
