import { api, type Job, sentenceOf } from "../api/client";
import { watchJob } from "../api/follow";

/** What every screen with a case on the sheet has: the job under way, and the sentence on what went wrong. */
export class Tracked {
  job = $state<Job | null>(null);
  error = $state("");
  #unwatch: () => void = () => {};

  readonly busy = $derived(this.job?.state === "waiting" || this.job?.state === "running");

  /** Follow a job to its end; `done` runs once it is done. */
  protected watch(job: Job, done: () => void) {
    this.#unwatch();
    this.job = job;
    this.#unwatch = watchJob(job, (now) => {
      this.job = now;
      if (now.state === "failed") this.error = now.error;
      if (now.state === "done") done();
    });
  }

  protected unwatch() {
    this.#unwatch();
    this.#unwatch = () => {};
  }

  async cancel() {
    const job = this.job;
    if (job) await this.attempt(async () => void (this.job = await api.cancel(job.id)));
  }

  /** Do something that may fail; what went wrong is said. */
  async attempt(work: () => Promise<void>) {
    this.error = "";
    try {
      await work();
    } catch (error) {
      this.say(error);
    }
  }

  protected say(error: unknown) {
    this.error = sentenceOf(error);
  }
}
