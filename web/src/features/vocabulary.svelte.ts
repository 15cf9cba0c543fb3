import { api, type Lens, type Vocabulary } from "../api/client";

/** What can be chosen and how a tooth can be looked at, asked for once: the pages keep no lists of their own. */
class Words {
  all = $state<Vocabulary | null>(null);
  #asked: Promise<void> | null = null;

  load(): Promise<void> {
    this.#asked ??= api.vocabulary().then(
      (found) => void (this.all = found),
      (error: unknown) => {
        this.#asked = null; // asked again by the next page
        throw error;
      },
    );
    return this.#asked;
  }

  get lenses(): Lens[] {
    return this.all?.lenses ?? [];
  }

  lens(name: string | null): Lens | null {
    return this.lenses.find((lens) => lens.name === name) ?? null;
  }
}

export const words = new Words();
