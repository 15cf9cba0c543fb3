import { api, orNone, type BridgeDocument, type Case, type Job, type ReadingDetail } from "../../api/client";
import { router } from "../../router.svelte";
import { vec, type Vec } from "../../sheet/vectors";
import { siteOf } from "../site";
import { Tracked } from "../tracked.svelte";
import { draftsAlong, leastDraft, wallsOf } from "./draft";

/** The teeth of an attempt held together: what was measured, and a path that is being tried. */
export class Span extends Tracked {
  case = $state<Case | null>(null);
  detail = $state<ReadingDetail | null>(null);
  bridge = $state<BridgeDocument | null>(null);
  asked = $state(false);
  stale = $state(false);
  tried = $state<Vec | null>(null);

  readonly path = $derived<Vec | null>(this.tried ?? (this.bridge ? vec(this.bridge.path.direction) : null));
  readonly walls = $derived(this.bridge?.abutments.map(wallsOf) ?? []);
  readonly drafts = $derived(
    this.path === null ? [] : this.walls.map((walls) => draftsAlong(walls, this.path!)),
  );
  /** Along the path that is shown; each tooth has as much to say. */
  readonly least = $derived(
    this.drafts.reduce<number | null>((low, rows) => {
      const own = leastDraft(rows);
      return own === null ? low : low === null ? own : Math.min(low, own);
    }, null),
  );

  async load(caseId: string) {
    await this.attempt(async () => {
      this.case = await api.case(caseId);
      const asked = router.query.get("attempt");
      const readings = siteOf(this.case, asked)?.readings ?? [];
      const reading = readings.find((r) => r.id === asked) ?? readings.at(-1);
      if (!reading) return;
      this.detail = await api.reading(reading.id);
      const job = this.detail.bridge_job;
      if (job && (job.state === "waiting" || job.state === "running")) this.#follow(job);
      await this.#show();
    });
  }

  async #show() {
    const found = await orNone(api.bridge(this.detail!.id));
    this.bridge = found?.document ?? null;
    this.stale = found?.stale ?? false;
    this.asked = true;
    this.tried = null;
  }

  async make() {
    await this.attempt(async () => this.#follow(await api.makeBridge(this.detail!.id)));
  }

  leave() {
    this.unwatch();
  }

  #follow(job: Job) {
    this.watch(job, () => void this.attempt(() => this.#show()));
  }
}
