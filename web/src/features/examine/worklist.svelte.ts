import { api } from "../../api/client";
import type { Examine } from "./state.svelte";

/** What is to be done, one step after the other. */
export class Worklist {
  chosen = $state(-1);

  constructor(readonly model: Examine) {}

  /** Another attempt is opened. */
  leave() {
    this.chosen = -1;
  }

  /** Step through it: the tooth turns to the view in which the hand sees the place. */
  choose(index: number) {
    const rows = this.model.document?.corrections ?? [];
    if (rows.length === 0) return;
    this.chosen = ((index % rows.length) + rows.length) % rows.length;
    const row = rows[this.chosen];
    if (row) this.model.show(row.at, row.key.split("|")[1] ?? "");
  }

  /** Tick a correction off by hand, or take the tick away; the next scan tells whether it is done. */
  async tick(key: string) {
    const detail = this.model.detail;
    if (!detail) return;
    const keys = detail.ticks.includes(key) ? detail.ticks.filter((k) => k !== key) : [...detail.ticks, key];
    await this.model.attempt(async () => {
      const { revision } = await api.setTicks(detail.id, detail.ticks_revision, keys);
      if (this.model.detail?.id === detail.id)
        this.model.detail = { ...this.model.detail, ticks: keys, ticks_revision: revision };
    });
  }
}
