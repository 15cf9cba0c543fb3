import { sentenceOf } from "../api/client";
/** The last thing that was put away, and the way back; stays until it is used, waved off or followed by another. */
class Undo {
  text = $state("");
  error = $state("");
  #back: (() => Promise<void>) | null = null;

  offer(text: string, back: () => Promise<void>) {
    this.text = text;
    this.error = "";
    this.#back = back;
  }

  async take() {
    const back = this.#back;
    if (!back) return;
    try {
      await back();
      this.drop();
    } catch (error) {
      this.error = sentenceOf(error);
    }
  }

  drop() {
    this.text = this.error = "";
    this.#back = null;
  }
}

export const undo = new Undo();
