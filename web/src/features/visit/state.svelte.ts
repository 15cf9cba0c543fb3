import { api, type Visit, type VisitEntry, type VisitNotes, sentenceOf } from "../../api/client";
import { elapsedS, rang, saysOf, stateOf, type TimerState } from "./clock";

const TICK_MS = 250;
const AGAIN_MS = 15_000;

/** The visit of the case that is open: one for all its screens, so that what runs stands on each of them. */
class Visiting {
  caseId = $state("");
  visit = $state<Visit | null>(null);
  error = $state("");
  now = $state(Date.now());
  muted = $state(localStorage.getItem("muted") === "yes");
  #offset = 0;
  #states = new Map<string, TimerState>();
  #ticking: ReturnType<typeof setInterval> | undefined;
  #asking: ReturnType<typeof setInterval> | undefined;

  readonly running = $derived(this.visit?.entries.filter((e) => e.stopped_at === null) ?? []);
  readonly timers = $derived(this.running.filter((e) => e.kind === "timer"));

  /** Begin to follow a case's visit, or end following one ("" for none). */
  follow(caseId: string) {
    if (caseId === this.caseId) return;
    this.caseId = caseId;
    this.visit = null;
    this.#states = new Map();
    clearInterval(this.#ticking);
    clearInterval(this.#asking);
    if (!caseId) return;
    void this.load();
    this.#ticking = setInterval(() => this.tick(), TICK_MS);
    this.#asking = setInterval(() => void this.load(), AGAIN_MS);
  }

  async load() {
    const asked = this.caseId;
    if (!asked) return;
    try {
      const found = await api.visit(asked);
      if (asked !== this.caseId) return;
      this.#offset = Date.now() - Date.parse(found.now);
      this.visit = found;
      this.error = "";
      this.tick();
    } catch (error) {
      this.error = sentenceOf(error);
    }
  }

  tick() {
    this.now = Date.now();
    if (!this.visit) return;
    const { rung, states } = rang(this.running, this.visit.timers, this.#states, this.now, this.#offset);
    this.#states = states;
    if (rung.length && !this.muted) ring();
  }

  elapsed(entry: VisitEntry) {
    return elapsedS(entry, this.now, this.#offset);
  }

  title(entry: VisitEntry) {
    const from = entry.kind === "timer" ? this.visit?.timers : this.visit?.planned;
    return from?.find((one) => one.id === entry.name)?.title ?? entry.name;
  }

  #timer(entry: VisitEntry) {
    return this.visit?.timers.find((t) => t.id === entry.name);
  }

  timerState(entry: VisitEntry): TimerState {
    const timer = this.#timer(entry);
    return timer ? stateOf(timer, this.elapsed(entry)) : "waiting";
  }

  says(entry: VisitEntry) {
    const timer = this.#timer(entry);
    return timer ? saysOf(timer, this.elapsed(entry)) : "";
  }

  mute() {
    this.muted = !this.muted;
    localStorage.setItem("muted", this.muted ? "yes" : "no");
  }

  start(kind: "step" | "timer", name: string) {
    return this.#change(() => api.startEntry(this.caseId, kind, name));
  }

  stop(entry: VisitEntry) {
    return this.#change(() => api.stopEntry(this.caseId, entry.id));
  }

  /** Start the first step that is still ahead; at the last one, end it. */
  next() {
    const ahead = this.visit?.planned.find((p) => p.state === "ahead");
    if (ahead) return this.start("step", ahead.id);
    const last = this.running.find((e) => e.kind === "step");
    return last ? this.stop(last) : undefined;
  }

  keepNotes(notes: VisitNotes) {
    const seen = this.visit?.notes_revision ?? 0;
    return this.#change(() => api.setVisitNotes(this.caseId, seen, notes));
  }

  async #change(work: () => Promise<unknown>) {
    this.error = "";
    try {
      await work();
    } catch (error) {
      this.error = sentenceOf(error);
      return;
    }
    await this.load();
  }
}

/** Three short tones; where no sound can be made the sight alone remains. */
function ring() {
  try {
    const sound = new AudioContext();
    for (const k of [0, 1, 2]) {
      const tone = sound.createOscillator();
      const loud = sound.createGain();
      tone.frequency.value = 880;
      loud.gain.value = 0.2;
      tone.connect(loud).connect(sound.destination);
      tone.start(sound.currentTime + 0.3 * k);
      tone.stop(sound.currentTime + 0.3 * k + 0.18);
    }
    setTimeout(() => void sound.close(), 1500);
  } catch {
    // No sound on this machine.
  }
}

export const visiting = new Visiting();
