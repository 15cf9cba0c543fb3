import { api } from "../../api/client";
import { router } from "../../router.svelte";
import type { Examine } from "./state.svelte";

/** Scans of the tooth as it is now, and the attempts that they make. */
export class Newcomers {
  names = $state(""); // of scans that are on their way in

  constructor(readonly model: Examine) {}

  /** The next attempt: its scans come first. */
  async addAttempt() {
    const [of, site] = [this.model.case, this.model.site];
    if (!of || !site) return;
    await this.model.attempt(async () => {
      const made = await this.#next(of.id, site.id);
      if (made) router.go(`/case/${of.id}/scans?attempt=${made.id}`);
    });
  }

  /** New scans dropped on the sheet make the next attempt where this one is scanned; they are measured at once. */
  async dropped(files: File[]) {
    const [of, site] = [this.model.case, this.model.site];
    if (!of || !site || files.length === 0 || this.names) return;
    this.names = files.map((file) => file.name).join(", ");
    await this.model.attempt(async () => {
      let reading = site.readings.at(-1) ?? null;
      const scanned = reading && (await api.reading(reading.id)).scans.some((scan) => scan.role === "prep");
      if (!reading || scanned) reading = await this.#next(of.id, site.id);
      if (!reading) return;
      for (const file of files) {
        await api.addScan(of.id, reading.attempt_id, file, files.length === 1 ? "prep" : "auto");
      }
      await api.measure(reading.id);
      this.model.case = await api.case(of.id);
      await this.model.open(reading.id);
    });
    this.names = "";
  }

  async #next(caseId: string, siteId: string) {
    this.model.case = await api.addAttempt(caseId);
    return this.model.case.sites.find((s) => s.id === siteId)?.readings.at(-1) ?? null;
  }
}
