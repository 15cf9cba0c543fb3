import type { VisitEntry, VisitTimer } from "../../api/client";

export type TimerState = "waiting" | "ready" | "over";

/** Seconds that an entry has run, or ran; by the server's clock, which lies `offsetMs` before this machine's. */
export function elapsedS(entry: VisitEntry, nowMs: number, offsetMs = 0): number {
  const ended = entry.stopped_at === null ? nowMs - offsetMs : Date.parse(entry.stopped_at);
  return Math.max((ended - Date.parse(entry.started_at)) / 1000, 0);
}

/** As the core tells it: waiting until it may be ended, ready from then on, over where it has run too long. */
export function stateOf(timer: VisitTimer, elapsed: number): TimerState {
  if (elapsed < timer.least_s) return "waiting";
  return timer.most_s > 0 && elapsed > timer.most_s ? "over" : "ready";
}

/** Seconds as a clock shows them: 4:05, 1:02:03. What is left is rounded up, so that 0:00 means it. */
export function clockText(seconds: number, up = false): string {
  const whole = Math.max(up ? Math.ceil(seconds - 1e-6) : Math.floor(seconds + 1e-6), 0);
  const [h, m, s] = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60, whole % 60];
  const two = (v: number) => String(v).padStart(2, "0");
  return h ? `${h}:${two(m)}:${two(s)}` : `${m}:${two(s)}`;
}

/** What a running timer says: time left, that it may be ended, or that it has run too long. */
export function saysOf(timer: VisitTimer, elapsed: number): string {
  const state = stateOf(timer, elapsed);
  if (state === "waiting") return `${clockText(timer.least_s - elapsed, true)} left`;
  if (state === "over") return `${clockText(elapsed - timer.most_s)} too long`;
  return timer.most_s ? `done, ${clockText(timer.most_s - elapsed, true)} at most` : "done";
}

/** The timers among `entries` that rang since `before`: they passed from one state to the next. */
export function rang(
  entries: VisitEntry[],
  timers: VisitTimer[],
  before: Map<string, TimerState>,
  nowMs: number,
  offsetMs = 0,
): { rung: VisitEntry[]; states: Map<string, TimerState> } {
  const states = new Map<string, TimerState>();
  const rung: VisitEntry[] = [];
  for (const entry of entries) {
    const timer = timers.find((t) => t.id === entry.name);
    if (entry.kind !== "timer" || entry.stopped_at !== null || !timer) continue;
    const state = stateOf(timer, elapsedS(entry, nowMs, offsetMs));
    states.set(entry.id, state);
    const was = before.get(entry.id);
    if (was !== undefined && was !== state) rung.push(entry);
  }
  return { rung, states };
}

/** The time of day so many minutes from now. */
export function atClock(nowMs: number, minutes: number): string {
  return new Date(nowMs + minutes * 60000).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
}
