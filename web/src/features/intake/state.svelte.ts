import {
  api,
  type AttemptDetail,
  type AxesGuess,
  type Case,
  type Job,
  type Pairs,
  type Scan,
} from "../../api/client";
import { undo } from "../../ui/undo.svelte";
import { router } from "../../router.svelte";
import { Tracked } from "../tracked.svelte";

export interface Upload {
  name: string;
  state: "reading" | "failed";
  error: string;
}

/** Scans of one attempt: add files, say which is which, confirm units and axes, measure. */
export class Intake extends Tracked {
  case = $state<Case | null>(null);
  detail = $state<AttemptDetail | null>(null);
  uploads = $state<Upload[]>([]);
  guess = $state<AxesGuess | null>(null);
  looking = $state(false);

  constructor(
    readonly caseId: string,
    readonly attemptId: string,
  ) {
    super();
  }

  readonly scans = $derived<Scan[]>(this.detail?.scans ?? []);
  readonly prep = $derived(this.scans.find((s) => s.role === "prep") ?? null);
  readonly doubtfulUnit = $derived(this.scans.some((s) => !s.unit_sure));
  readonly confirmed = $derived(this.detail?.axes != null);
  readonly ready = $derived(
    !!this.prep && !this.doubtfulUnit && this.uploads.every((u) => u.state !== "reading"),
  );

  async load() {
    await this.attempt(async () => {
      [this.case, this.detail] = await Promise.all([api.case(this.caseId), api.attempt(this.attemptId)]);
      const job = this.detail.job;
      if (job && (job.state === "waiting" || job.state === "running")) this.#follow(job);
    });
  }

  async add(files: Iterable<File>) {
    this.error = "";
    for (const file of files) {
      const index = this.uploads.push({ name: file.name, state: "reading", error: "" }) - 1;
      const upload = this.uploads[index]!;
      try {
        await api.addScan(this.caseId, this.attemptId, file, "auto");
        this.uploads = this.uploads.filter((u) => u !== upload);
        this.guess = null;
      } catch (error) {
        upload.state = "failed";
        upload.error = error instanceof Error ? error.message : String(error);
      }
      await this.#refresh();
    }
  }

  async change(scan: Scan, role: string, unit: string) {
    await this.attempt(async () => {
      await api.changeScan(scan.id, {
        attempt_id: this.attemptId,
        role: role as Scan["role"],
        unit: unit as Scan["unit"],
      });
      this.guess = null;
      await this.#refresh();
    });
  }

  async remove(scan: Scan) {
    await this.attempt(async () => {
      await api.deleteScan(scan.id);
      await this.#refresh();
    });
  }

  readonly site = $derived(this.case?.sites[0] ?? null);
  readonly number = $derived(this.site?.attempts.find((a) => a.id === this.attemptId)?.number ?? null);

  /** Put this attempt away and go back to the case; it can be taken back. */
  async putAway() {
    const [number, id, caseId] = [this.number, this.attemptId, this.caseId];
    await this.attempt(async () => {
      await api.putAttemptAway(id);
      undo.offer(`Attempt ${number ?? ""} was put away.`, async () => {
        await api.takeAttemptBack(id);
        router.go(`/case/${caseId}/scans?attempt=${id}`);
      });
      router.go(`/case/${caseId}`);
    });
  }

  async takeBack(id: string) {
    await this.attempt(async () => {
      await api.takeAttemptBack(id);
      router.go(`/case/${this.caseId}/scans?attempt=${id}`);
    });
  }

  /** Keep the same places on two scans, or forget them, from where aligning then begins. */
  async pointOut(role: "preop" | "mockup", pairs: Pairs) {
    await this.attempt(async () => {
      await api.setPairs(this.attemptId, role, this.detail!.revisions.pairs ?? 0, pairs);
      this.guess = null;
      await this.#refresh();
    });
  }

  async findAxes() {
    this.looking = true;
    await this.attempt(async () => {
      this.guess = await api.guessAxes(this.attemptId);
    });
    this.looking = false;
  }

  /** The other side is facial: both facial and mesial turn round. */
  swapSides() {
    if (!this.guess) return;
    const back = (v: number[]) => v.map((x) => -x) as [number, number, number];
    this.guess = {
      ...this.guess,
      facial: back(this.guess.facial),
      mesial: back(this.guess.mesial),
      sure: true,
    };
  }

  async confirmAxes() {
    const guess = this.guess;
    if (!guess || !this.detail) return;
    await this.attempt(async () => {
      await api.setAxes(this.attemptId, this.detail!.revisions.axes ?? 0, {
        occlusal: guess.occlusal,
        facial: guess.facial,
        near: guess.centre,
      });
      await this.#refresh();
    });
  }

  async measure() {
    await this.attempt(async () => this.#follow(await api.measure(this.attemptId)));
  }

  leave() {
    this.unwatch();
  }

  #follow(job: Job) {
    this.watch(job, () => router.go(`/case/${this.caseId}?attempt=${this.attemptId}`));
  }

  async #refresh() {
    this.detail = await api.attempt(this.attemptId);
  }
}
