import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { api, ApiError, type Job } from "./client";
import { watchJob } from "./follow";

const JOB: Job = { id: "j", reading_id: "a", state: "running", text: "aligning", share: 0.2, error: "" };

class FakeSource {
  static CLOSED = 2;
  static last: FakeSource;
  onmessage: (event: { data: string }) => void = () => {};
  onerror: () => void = () => {};
  readyState = 1;
  closed = false;
  constructor(readonly url: string) {
    FakeSource.last = this;
  }
  close() {
    this.closed = true;
  }
  say(job: Partial<Job>) {
    this.onmessage({ data: JSON.stringify({ ...JOB, ...job }) });
  }
  fail(closed: boolean) {
    this.readyState = closed ? FakeSource.CLOSED : 0;
    this.onerror();
  }
}

let told: Job[] = [];
let stop: () => void;

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal("EventSource", FakeSource);
  told = [];
  stop = watchJob(JOB, (job) => told.push(job));
});
afterEach(() => {
  stop();
  vi.useRealTimers();
  vi.restoreAllMocks();
});

test("hears every change and leaves at the end", () => {
  FakeSource.last.say({ share: 0.5 });
  FakeSource.last.say({ state: "done", share: 1 });
  FakeSource.last.say({ state: "running" });
  expect(told.map((j) => j.share)).toEqual([0.5, 1]);
  expect(FakeSource.last.closed).toBe(true);
});

test("a broken connection is said, and goes on when the browser has it again", () => {
  FakeSource.last.fail(false);
  expect(told.at(-1)).toMatchObject({ state: "running", text: expect.stringContaining("does not answer") });
  FakeSource.last.say({ text: "measuring" });
  expect(told.at(-1)!.text).toBe("measuring");
  expect(FakeSource.last.closed).toBe(false);
});

test("where the browser gives up, it is asked until the job has ended", async () => {
  const answers = [new ApiError("gone for a moment", 0), { ...JOB, share: 0.9 }, { ...JOB, state: "done" }];
  vi.spyOn(api, "job").mockImplementation(async () => {
    const next = answers.shift();
    if (next instanceof Error) throw next;
    return next as Job;
  });
  FakeSource.last.fail(true);
  await vi.advanceTimersByTimeAsync(10_000);
  expect(told.map((j) => j.state)).toEqual(["running", "running", "done"]);
  expect(told[0]!.text).toContain("does not answer");
  expect(answers).toEqual([]);
});

test("a job that is no longer there has ended, and says so", async () => {
  vi.spyOn(api, "job").mockRejectedValue(new ApiError("There is no such job.", 404));
  FakeSource.last.fail(true);
  await vi.advanceTimersByTimeAsync(10_000);
  expect(told).toHaveLength(1);
  expect(told[0]).toMatchObject({ state: "failed", error: expect.stringContaining("measure again") });
  expect(api.job).toHaveBeenCalledTimes(1);
});

test("who has left hears nothing more", async () => {
  const ask = vi.spyOn(api, "job").mockResolvedValue(JOB);
  stop();
  FakeSource.last.say({ state: "done" });
  FakeSource.last.fail(true);
  await vi.advanceTimersByTimeAsync(10_000);
  expect(told).toEqual([]);
  expect(ask).not.toHaveBeenCalled();
});
