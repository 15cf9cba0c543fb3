import { api, type Rubric } from "../../api/client";
import { ownCopy } from "../own";
import { Tracked } from "../tracked.svelte";

/** The school's ways to mark, and the one that is being edited. */
export class Rubrics extends Tracked {
  all = $state<Rubric[]>([]);
  words = $state.raw<{ name: string; title: string }[]>([]);
  edited = $state<Rubric | null>(null);
  saved = $state("");

  async load() {
    await this.attempt(async () => {
      [this.all, this.words] = await Promise.all([api.rubrics(), api.marked()]);
    });
  }

  titleOf(name: string): string {
    return this.words.find((w) => w.name === name)?.title ?? name;
  }

  /** Begin a copy of one that ships, or go on with one's own. */
  edit(rubric: Rubric) {
    this.edited = ownCopy($state.snapshot(rubric) as Rubric);
    this.saved = "";
  }

  addRow() {
    this.edited?.rows.push({ title: "", criteria: [], weight: 10, fall: 0.4, at_limit: 0.6, gather: "mean" });
  }

  async save() {
    const edited = this.edited;
    if (!edited) return;
    await this.attempt(async () => {
      const { id, title, restorations, source, rows, caps, steps, version } = $state.snapshot(
        edited,
      ) as Rubric;
      const made = await api.saveRubric({
        expected_version: version,
        id,
        title,
        restorations,
        source,
        rows,
        caps,
        steps,
      });
      this.edited = null;
      this.saved = `Kept: ${made.title}, version ${made.version}. Exercises keep the version they were begun with.`;
      await this.load();
    });
  }
}
