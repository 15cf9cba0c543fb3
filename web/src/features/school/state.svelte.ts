import { api, sentenceOf, type SchoolClass } from "../../api/client";
import { Tracked } from "../tracked.svelte";

const AGAIN_MS = 3000;

/** A class: what was handed in for one exercise, and files on their way in. */
export class ClassRoom extends Tracked {
  found = $state<SchoolClass | null>(null);
  bringing = $state("");
  refused = $state<string[]>([]);
  #timer: ReturnType<typeof setTimeout> | undefined;
  #left = false;

  constructor(readonly id: string) {
    super();
  }

  readonly waiting = $derived(
    (this.found?.rows ?? []).filter((r) => r.state === "waiting" || r.state === "running").length,
  );

  async load() {
    await this.attempt(async () => void (this.found = await api.schoolClass(this.id)));
    clearTimeout(this.#timer);
    if (this.waiting && !this.#left) this.#timer = setTimeout(() => void this.load(), AGAIN_MS);
  }

  /** One after the other; a file that cannot be taken is named with its sentence, the others go on. */
  async handIn(files: File[]) {
    this.refused = [];
    for (const [k, file] of files.entries()) {
      this.bringing = `${file.name} (${k + 1} of ${files.length})`;
      try {
        await api.handIn(this.id, file);
      } catch (error) {
        this.refused = [...this.refused, `${file.name}: ${sentenceOf(error)}`];
      }
    }
    this.bringing = "";
    await this.load();
  }

  leave() {
    this.#left = true;
    clearTimeout(this.#timer);
  }
}
