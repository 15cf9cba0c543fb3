import { api, type Kind, type Lens, type Standard, type Vocabulary } from "../api/client";

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

  /** Those that serve a kind of restoration. */
  lensesOf(restoration: string | undefined): Lens[] {
    const reader = this.kind(restoration)?.reader;
    return reader ? this.lenses.filter((lens) => lens.readers.includes(reader)) : this.lenses;
  }

  kind(name: string | undefined): Kind | null {
    return this.all?.kinds.find((kind) => kind.value === name) ?? null;
  }

  lens(name: string | null): Lens | null {
    return this.lenses.find((lens) => lens.name === name) ?? null;
  }
}

/** Whether a standard may be chosen for a kind of restoration on a tooth. */
export const serves = (standard: Standard, tooth: string, restoration: string): boolean =>
  standard.fits.includes(tooth) &&
  (standard.restoration === restoration || standard.also_restorations.includes(restoration));

export const words = new Words();
