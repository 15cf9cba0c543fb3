import {
  api,
  type ReadingDetail,
  type AxesGuess,
  type Case,
  type Job,
  type Pairs,
  type Scan,
  sentenceOf,
} from "../../api/client";
import { undo } from "../../ui/undo.svelte";
import { router } from "../../router.svelte";
import { siteOf } from "../site";
import { Tracked } from "../tracked.svelte";

export interface Upload {
  name: string;
  state: "reading" | "failed";
  error: string;
}

/** Scans of one attempt: add files, say which is which, confirm units and axes, measure. */
export class Intake extends Tracked {
  case = $state<Case | null>(null);
  detail = $state<ReadingDetail | null>(null);
  uploads = $state<Upload[]>([]);
  guess = $state<AxesGuess | null>(null);
  looking = $state(false);

  constructor(
    readonly caseId: string,
    readonly readingId: string,
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
      [this.case, this.detail] = await Promise.all([api.case(this.caseId), api.reading(this.readingId)]);
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
        await api.addScan(this.caseId, await this.#attemptId(), file, "auto");
        this.uploads = this.uploads.filter((u) => u !== upload);
        this.guess = null;
      } catch (error) {
        upload.state = "failed";
        upload.error = sentenceOf(error);
      }
      await this.#refresh();
    }
  }

  async change(scan: Scan, role: string, unit: string) {
    await this.attempt(async () => {
      await api.changeScan(scan.id, {
        attempt_id: await this.#attemptId(),
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

  readonly site = $derived(siteOf(this.case, this.detail?.id ?? null));
  readonly number = $derived(this.detail?.number ?? null);

  /** Put this attempt away and go back to the case; it can be taken back. */
  async putAway() {
    const [number, reading, caseId] = [this.number, this.readingId, this.caseId];
    await this.attempt(async () => {
      const id = await this.#attemptId();
      await api.putAttemptAway(id);
      undo.offer(`Attempt ${number ?? ""} was put away.`, async () => {
        await api.takeAttemptBack(id);
        router.go(`/case/${caseId}/scans?attempt=${reading}`);
      });
      router.go(`/case/${caseId}`);
    });
  }

  async takeBack(id: string) {
    await this.attempt(async () => {
      await api.takeAttemptBack(id);
      this.case = await api.case(this.caseId);
      const back = this.site?.readings.find((r) => r.attempt_id === id);
      router.go(`/case/${this.caseId}/scans?attempt=${back?.id ?? this.readingId}`);
    });
  }

  /** Of the attempt that this tooth is read in: scans and putting away are of all its teeth. */
  async #attemptId(): Promise<string> {
    this.detail ??= await api.reading(this.readingId);
    return this.detail.attempt_id;
  }

  /** Keep the same places on two scans, or forget them, from where aligning then begins. */
  async pointOut(role: "preop" | "mockup", pairs: Pairs) {
    await this.attempt(async () => {
      await api.setPairs(this.readingId, role, this.detail!.revisions.pairs ?? 0, pairs);
      this.guess = null;
      await this.#refresh();
    });
  }

  async findAxes() {
    this.looking = true;
    await this.attempt(async () => {
      this.guess = await api.guessAxes(this.readingId);
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
      await api.setAxes(this.readingId, this.detail!.revisions.axes ?? 0, {
        occlusal: guess.occlusal,
        facial: guess.facial,
        near: guess.centre,
      });
      await this.#refresh();
    });
  }

  async measure() {
    await this.attempt(async () => this.#follow(await api.measure(this.readingId)));
  }

  leave() {
    this.unwatch();
  }

  #follow(job: Job) {
    this.watch(job, () => router.go(`/case/${this.caseId}?attempt=${this.readingId}`));
  }

  async #refresh() {
    this.detail = await api.reading(this.readingId);
  }
}
