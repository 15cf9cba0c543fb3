import { api, type Case } from "../../api/client";
import { undo } from "../../ui/undo.svelte";

/** The list of cases, those that were put away, and the ways between the two. */
export class CaseList {
  cases = $state<Case[] | null>(null);
  away = $state<Case[]>([]);
  error = $state("");

  async load() {
    await this.#try(async () => {
      [this.cases, this.away] = await Promise.all([api.cases(), api.cases(true)]);
    });
  }

  /** Out of the list, with a way back. */
  async putAway(one: Case) {
    await this.#try(async () => {
      await api.deleteCase(one.id);
      undo.offer(`${one.code} was put away.`, async () => {
        await api.takeCaseBack(one.id);
        await this.load();
      });
      await this.load();
    });
  }

  async takeBack(one: Case) {
    await this.#try(async () => {
      await api.takeCaseBack(one.id);
      undo.drop();
      await this.load();
    });
  }

  async deleteForGood(one: Case) {
    await this.#try(async () => {
      await api.deleteCase(one.id, true);
      undo.drop();
      await this.load();
    });
  }

  async #try(work: () => Promise<void>) {
    this.error = "";
    try {
      await work();
    } catch (error) {
      this.error = error instanceof Error ? error.message : String(error);
    }
  }
}
