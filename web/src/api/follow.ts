import { api } from "./client";
import { ApiError } from "./connection";
import type { Job } from "./types";

const ENDED: Job["state"][] = ["done", "failed", "cancelled"];
const ASK_AGAIN_MS = 2000;
const SILENT = "the program does not answer; asking again";

/**
 * Follow a job to its end; `tell` hears every change. A broken connection is said, and taken up again: by the browser,
 * or, where that gives up, by asking now and then. A job that is no longer there has ended.
 */
export function watchJob(job: Job, tell: (job: Job) => void): () => void {
  let last = job;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let left = false;
  const source = new EventSource(`/api/jobs/${job.id}/events`);
  const hear = (now: Job) => {
    if (left) return;
    last = now;
    if (ENDED.includes(now.state)) leave();
    tell(now);
  };
  const leave = () => {
    left = true;
    source.close();
    clearTimeout(timer);
  };
  const ask = async () => {
    try {
      hear(await api.job(job.id));
    } catch (error) {
      const gone = error instanceof ApiError && error.status === 404;
      if (gone)
        hear({ ...last, state: "failed", error: "This measurement is no longer there; measure again." });
      else hear({ ...last, text: SILENT });
    }
    if (!left) timer = setTimeout(() => void ask(), ASK_AGAIN_MS);
  };
  source.onmessage = (event) => hear(JSON.parse(event.data as string) as Job);
  source.onerror = () => {
    if (left) return;
    if (source.readyState === EventSource.CLOSED) void ask();
    else hear({ ...last, text: SILENT });
  };
  return leave;
}
