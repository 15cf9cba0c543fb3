import { api, type Pin, type Tape, sentenceOf } from "../../api/client";
import { vec, type Vec } from "../../sheet/vectors";
import type { Examine } from "./state.svelte";

/** Places that somebody marked on the preparation: they read whatever lens is chosen, and two of them measure. */
export class Pins {
  /** Whether a press on the tooth sets a pin. */
  on = $state(false);
  /** The two that are measured between, by number; the last two that were touched. */
  ends = $state<number[]>([]);
  tape = $state<Tape | null>(null);
  error = $state("");
  #ticket = 0;

  constructor(readonly model: Examine) {}

  readonly all = $derived.by<Pin[]>(() => this.model.detail?.pins ?? []);

  /** Another attempt is opened: its own pins come with it. */
  leave() {
    this.ends = [];
    this.tape = null;
    this.error = "";
    this.#ticket += 1;
  }

  async press(place: Vec | null) {
    if (!place || !this.on) return;
    if (await this.#keep([...this.all, { place: [...place], name: "" }]))
      await this.touch(this.all.length - 1);
  }

  async name(index: number, name: string) {
    if (name === this.all[index]?.name) return;
    await this.#keep(this.all.map((pin, k) => (k === index ? { ...pin, name } : pin)));
  }

  async remove(index: number) {
    const kept = this.all.filter((_, k) => k !== index);
    if (!(await this.#keep(kept))) return;
    this.ends = [];
    await this.#measure();
  }

  /** Take in the other side's marks; what is said of it. */
  async answer(file: File): Promise<string> {
    const id = this.model.readingId;
    let said = "";
    const done = await this.#try(async () => {
      const { taken } = await api.takeAnswer(id, file);
      const fresh = await api.reading(id);
      if (this.model.detail?.id === id)
        this.model.detail = {
          ...this.model.detail,
          pins: fresh.pins,
          pins_revision: fresh.pins_revision,
        };
      said = taken === 1 ? "One mark was taken in." : `${taken} marks were taken in.`;
    });
    return done ? said : this.error;
  }

  /** Measure from or to a pin. */
  async touch(index: number) {
    this.ends = this.ends.includes(index)
      ? this.ends.filter((k) => k !== index)
      : [...this.ends, index].slice(-2);
    await this.#measure();
  }

  async #measure() {
    const ticket = ++this.#ticket;
    const [one, other] = this.ends.map((k) => this.all[k]);
    this.tape = null;
    this.model.showTape(one && other ? [vec(one.place), vec(other.place)] : null);
    if (!one || !other) return;
    await this.#try(async () => {
      const found = await api.tape(this.model.readingId, one.place, other.place);
      if (ticket === this.#ticket) this.tape = found;
    });
  }

  async #keep(pins: Pin[]): Promise<boolean> {
    const detail = this.model.detail;
    if (!detail) return false;
    return this.#try(async () => {
      const { revision } = await api.setPins(detail.id, detail.pins_revision, $state.snapshot(pins) as Pin[]);
      if (this.model.detail?.id === detail.id)
        this.model.detail = { ...this.model.detail, pins, pins_revision: revision };
    });
  }

  async #try(work: () => Promise<void>): Promise<boolean> {
    this.error = "";
    try {
      await work();
      return true;
    } catch (error) {
      this.error = sentenceOf(error);
      return false;
    }
  }
}
