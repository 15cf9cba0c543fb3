import { api, sentenceOf } from "../../api/client";
import { parseMesh } from "../../sheet/blob";
import { vec } from "../../sheet/vectors";
import type { Examine } from "./state.svelte";

const COLOUR: [number, number, number] = [0.42, 0.36, 0.24];

/** A crown of the set, laid over the preparation on the sheet: where the tooth comes through it, it binds. */
export class LaidCrown {
  size = $state<string | null>(null);
  error = $state("");
  #turn = 0; // counts what is asked for; what arrives for an earlier wish is dropped

  constructor(readonly model: Examine) {}

  /** Lay a size over, or take it away where it lies already. */
  async toggle(size: string) {
    await this.lay(this.size === size ? null : size);
  }

  async lay(size: string | null) {
    const turn = ++this.#turn;
    const [id, fit] = [this.model.readingId, this.model.document?.child?.fits.find((f) => f.size === size)];
    this.size = fit ? size : null;
    this.error = "";
    this.#show(null, null);
    if (!fit) return;
    try {
      const mesh = parseMesh(await api.laidCrown(id, fit.size));
      if (turn !== this.#turn) return;
      this.#show(mesh, fit.binds_mm > 0 ? vec(fit.at) : null);
    } catch (error) {
      if (turn !== this.#turn) return;
      this.size = null;
      this.error = sentenceOf(error);
    }
  }

  /** Another attempt is opened: nothing of this one stays on the sheet. */
  leave() {
    this.#turn += 1;
    this.size = null;
    this.error = "";
    this.#show(null, null);
  }

  #show(mesh: ReturnType<typeof parseMesh> | null, binds: ReturnType<typeof vec> | null) {
    this.model.dress.scene?.setGhost("crown", mesh, COLOUR, null);
    this.model.dress.scene?.setPlaces(binds ? [binds] : []);
  }
}
