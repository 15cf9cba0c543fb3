import { api } from "../../api/client";
import { parseMesh } from "../../sheet/blob";
import { product } from "../../sheet/vectors";
import { closedPose } from "./bite";
import type { Examine } from "./state.svelte";

const NAME = "opposing";
const COLOUR: [number, number, number] = [0.25, 0.36, 0.5];

/** The opposing teeth over the preparation, see-through: as the bite was recorded, or where the jaw goes from there. */
export class Opposing {
  shown = $state(false);
  closed = $state(false); // they stand where they would close deepest

  #ticket = 0;

  constructor(readonly model: Examine) {}

  /** Another attempt is opened: its own opposing teeth are shown once they are there. */
  leave() {
    this.closed = false;
    this.#take();
  }

  async show(show: boolean) {
    this.shown = show;
    const ticket = this.#take();
    const scan = this.model.detail?.scans.find((s) => s.role === NAME);
    if (!show || !scan) return;
    const mesh = parseMesh(await api.blob(scan.light_hash));
    if (ticket === this.#ticket) this.model.dress.scene?.setGhost(NAME, mesh, COLOUR, this.#recorded);
  }

  /** Off the sheet, and so is what is still on its way. */
  #take(): number {
    this.model.dress.scene?.setGhost(NAME, null, COLOUR, null);
    return ++this.#ticket;
  }

  /** Where they would close deepest, with the bite recorded shifted; or as it was recorded. */
  async close(closed: boolean) {
    const document = this.model.document;
    const shift = document?.clearance?.bite.shift;
    if (!shift || !document) return;
    this.closed = closed;
    if (closed && !this.shown) await this.show(true);
    this.stand(closed ? closedPose(shift, document.frame.occlusal) : null);
  }

  /** In another position of the lower jaw, or in the bite's. */
  stand(pose: number[][] | null) {
    const matrix = this.#recorded;
    if (matrix) this.model.dress.scene?.moveGhost(NAME, pose ? product(pose, matrix) : matrix);
  }

  get #recorded(): number[][] | null {
    return this.model.document?.alignment.opposing?.matrix ?? null;
  }
}
