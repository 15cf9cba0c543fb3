import type { Movement, Verdict } from "../../api/client";
import type { Examine } from "./state.svelte";

export const NAMES: Record<Movement["movement"], string> = {
  protrusive: "Forward",
  laterotrusive: "To this side",
  mediotrusive: "To the other side",
};
const FRAME_MS = 220; // a step of a quarter of a millimetre stays so long
const DASH = "-";

/** Angles as they are kept: condylar path, Bennett's angle, guidance in front; null where none was entered. */
export function anglesOf(kept: string | null): (number | null)[] {
  const parts = kept === null ? [] : kept.split(",");
  return [0, 1, 2].map((k) => {
    const text = parts[k]?.trim();
    return text === undefined || text === DASH || text === "" ? null : Number(text);
  });
}
export const kept = (angles: (number | null)[]) =>
  angles.map((a) => (a === null ? DASH : String(a))).join(",");

/** The step at which a movement's judged places are nearest to the opposing teeth. */
export function tightest(
  movement: Movement,
  judged: string[],
): { zone: string; low_mm: number; step_mm: number } | null {
  let best: { zone: string; low_mm: number; step_mm: number } | null = null;
  for (const z of movement.zones) {
    if (!judged.includes(z.zone) || z.low_mm === null || z.step_mm === null) continue;
    if (!best || z.low_mm < best.low_mm) best = { zone: z.zone, low_mm: z.low_mm, step_mm: z.step_mm };
  }
  return best;
}

/** The lower jaw moved on the sheet: the opposing teeth go as they go past the preparation, and stay where it is tightest. */
export class Movements {
  playing = $state<Movement["movement"] | null>(null);
  step_mm = $state<number | null>(null); // where the opposing teeth stand, of the movement that was played last
  #ticket = 0;

  constructor(readonly model: Examine) {}

  readonly all = $derived.by<Movement[]>(() => this.model.document?.movements ?? []);
  readonly angles = $derived.by(() => anglesOf(this.model.case?.movements ?? null));
  readonly asked = $derived.by(() => (this.model.case?.movements ?? null) !== null);

  /** What is judged in a movement. */
  verdicts(movement: string): Verdict[] {
    return (this.model.document?.verdicts ?? []).filter((v) => v.criterion === `clearance/${movement}`);
  }

  /** Where a movement is tightest, of the places that are judged in it. */
  tightest(movement: Movement) {
    return tightest(
      movement,
      this.verdicts(movement.movement).map((v) => v.zone),
    );
  }

  async ask(on: boolean) {
    await this.model.terms.setMovements(on ? kept([null, null, null]) : "");
  }

  async enter(index: number, value: number | null) {
    await this.model.terms.setMovements(kept(this.angles.map((a, k) => (k === index ? value : a))));
  }

  /** Once through the movement's steps, then back to the tightest; without motion straight to it. */
  async play(movement: Movement) {
    const ticket = ++this.#ticket;
    if (!this.model.opposing.shown) await this.model.opposing.show(true);
    this.playing = movement.movement;
    const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
    for (const pose of still ? [] : movement.poses) {
      if (ticket !== this.#ticket) return;
      this.#stand(pose);
      await new Promise((done) => setTimeout(done, FRAME_MS));
    }
    if (ticket !== this.#ticket) return;
    const least = this.tightest(movement)?.step_mm ?? 0;
    this.#stand(movement.poses.find((p) => p.step_mm === least) ?? null);
    this.playing = null;
  }

  /** The teeth together again. */
  rest() {
    this.#ticket += 1;
    this.playing = null;
    this.#stand(null);
    this.step_mm = null;
  }

  #stand(pose: Movement["poses"][number] | null) {
    this.step_mm = pose?.step_mm ?? 0;
    this.model.opposing.stand(pose?.opposing ?? null);
  }
}
