import { api, type Case, type Facts } from "../../api/client";
import type { Examine } from "./state.svelte";

/** By what the tooth is judged, and what no scan shows of it; a change of them is measured again. */
export class Terms {
  constructor(readonly model: Examine) {}

  async useStandard(id: string) {
    const [standard, site] = [this.model.standards.find((s) => s.id === id), this.model.site];
    if (standard && site) await this.#judgedAgain(api.setStandard(site.id, standard.material, id));
  }

  /** What no scan shows of the tooth: root-filled, dark, how deep its pin holes are. */
  async setFacts(facts: Facts) {
    const site = this.model.site;
    if (site) await this.#judgedAgain(api.setFacts(site.id, facts));
  }

  /** How the lower jaw moves, or "" where only the bite is looked at. */
  async setMovements(movements: string) {
    const now = this.model.case;
    if (!now) return;
    const { notes, opposing_frame } = now;
    this.model.movements.rest();
    await this.#judgedAgain(api.changeCase(now.id, now.revision, { notes, opposing_frame, movements }));
  }

  /** What was said takes effect: the attempt's new job is followed. */
  async #judgedAgain(changed: Promise<Case>) {
    await this.model.attempt(async () => {
      this.model.case = await changed;
      const job = this.model.site?.readings.find((a) => a.id === this.model.readingId)?.job;
      if (job) this.model.follow(job);
    });
  }
}
