import { api, type Case, type CaseRow } from "../../api/client";
import { router } from "../../router.svelte";
import { undo } from "../../ui/undo.svelte";
import { Tracked } from "../tracked.svelte";
import { narrowed, ordered, SORTS } from "./rows";

/** The list of cases, those that were put away, and the ways between the two. */
export class CaseList extends Tracked {
  cases = $state<CaseRow[] | null>(null);
  away = $state<Case[]>([]);
  bringing = $state(""); // a case's file on its way in
  typed = $state("");
  filter = $state("all");
  sort = $state(router.query.get("sort") ?? SORTS[0]!.value);

  readonly shown = $derived(ordered(narrowed(this.cases ?? [], this.typed, this.filter), this.sort));

  /** In another order, which the address remembers. */
  sortBy(sort: string) {
    this.sort = sort;
    router.note({ sort });
  }

  async load() {
    await this.attempt(async () => {
      const [cases, away] = await Promise.all([api.cases(), api.cases(true)]);
      this.cases = cases;
      this.away = away.map((row) => row.case);
    });
  }

  /** A whole case out of a file, opened where it stands. */
  async bring(file: File) {
    await this.attempt(async () => {
      this.bringing = file.name;
      try {
        const made = await api.bringCase(file);
        router.go(`/case/${made.id}`);
      } finally {
        this.bringing = "";
      }
    });
  }

  /** Out of the list, with a way back. */
  async putAway(one: Case) {
    await this.attempt(async () => {
      await api.deleteCase(one.id);
      undo.offer(`${one.code} was put away.`, async () => {
        await api.takeCaseBack(one.id);
        await this.load();
      });
      await this.load();
    });
  }

  async takeBack(one: Case) {
    await this.attempt(async () => {
      await api.takeCaseBack(one.id);
      undo.drop();
      await this.load();
    });
  }

  async deleteForGood(one: Case) {
    await this.attempt(async () => {
      await api.deleteCase(one.id, true);
      undo.drop();
      await this.load();
    });
  }
}
