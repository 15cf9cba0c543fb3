import { api, type Arrival } from "../api/client";

const EVERY_MS = 3000;

/** Scans that came through the watched folder while somebody looks: announced, never pushed into view. */
class Arrivals {
  shown = $state<Arrival[]>([]);
  #seen: string | null = null; // the newest arrival when the page was opened: what came before is no news
  #put: string[] = [];

  start() {
    void this.#look();
    const timer = window.setInterval(() => void this.#look(), EVERY_MS);
    return () => window.clearInterval(timer);
  }

  later(id: string) {
    this.#put.push(id);
    this.shown = this.shown.filter((a) => a.id !== id);
  }

  async #look() {
    try {
      const rows = await api.arrivals(this.#seen ?? "");
      if (this.#seen === null) this.#seen = rows.at(-1)?.id ?? "";
      else this.shown = rows.filter((a) => !this.#put.includes(a.id));
    } catch {
      // The server is gone for a moment; the next look tells.
    }
  }
}

export const arrivals = new Arrivals();
