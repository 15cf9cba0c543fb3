import { describe, expect, it } from "vitest";
import { clockText, elapsedS, rang, saysOf, stateOf } from "./clock";

const START = Date.parse("2026-11-27T09:00:00.000+00:00");
const entry = (name: string, stopped_at: string | null = null) => ({
  id: name, case_id: "c", kind: "timer" as const, name, started_at: "2026-11-27T09:00:00.000+00:00", stopped_at,
}); // prettier-ignore
const primer = { id: "primer", title: "Primer", least_s: 20, most_s: 30, source: "" };
const light = { id: "light", title: "Light", least_s: 20, most_s: 0, source: "" };

describe("a timer", () => {
  it("runs by the server's clock, also after this machine slept", () => {
    expect(elapsedS(entry("light"), START + 7000)).toBe(7);
    expect(elapsedS(entry("light"), START + 7000, 2000)).toBe(5); // this machine's clock is two seconds ahead
    expect(elapsedS(entry("light"), START + 3 * 3600e3)).toBe(3 * 3600);
    expect(elapsedS(entry("light", "2026-11-27T09:00:21.000+00:00"), START + 1e9)).toBe(21);
  });

  it("waits, may be ended, has run too long", () => {
    expect([0, 19.9, 20, 30, 30.1].map((s) => stateOf(primer, s))).toEqual(
      ["waiting", "waiting", "ready", "ready", "over"],
    ); // prettier-ignore
    expect(stateOf(light, 1e6)).toBe("ready");
    expect(saysOf(primer, 5.2)).toBe("0:15 left");
    expect(saysOf(primer, 22)).toBe("done, 0:08 at most");
    expect(saysOf(primer, 95)).toBe("1:05 too long");
    expect(saysOf(light, 95)).toBe("done");
  });

  it("says nought only when it is nought", () => {
    expect(clockText(0.4, true)).toBe("0:01");
    expect(clockText(0, true)).toBe("0:00");
    expect(clockText(3723)).toBe("1:02:03");
  });

  it("rings once at each end, several side by side, and not for what had ended before the page was opened", () => {
    const both = [entry("primer"), entry("light")];
    const timers = [primer, light];
    let seen = rang(both, timers, new Map(), START + 10e3);
    expect(seen.rung).toEqual([]);
    seen = rang(both, timers, seen.states, START + 20e3);
    expect(seen.rung.map((e) => e.name)).toEqual(["primer", "light"]);
    expect(rang(both, timers, seen.states, START + 25e3).rung).toEqual([]);
    seen = rang(both, timers, seen.states, START + 31e3);
    expect(seen.rung.map((e) => e.name)).toEqual(["primer"]);
    expect(rang([entry("primer")], timers, new Map(), START + 3600e3).rung).toEqual([]);
  });
});
