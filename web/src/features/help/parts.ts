/** What a screen's keys do. Parts say themselves what they are, in `data-part`. */
export interface Key {
  key: string;
  does: string;
}
const EVERYWHERE: Key[] = [{ key: "?", does: "this help" }];
const SHEET: Key[] = [
  { key: "1 … 7", does: "lenses" },
  { key: "O F L M D", does: "occlusal, facial, lingual, mesial, distal view" },
  { key: "arrows, + −", does: "turn and zoom the tooth, once it has the focus" },
  { key: "drag, wheel", does: "turn, zoom; Shift shifts" },
  { key: "N P", does: "next place, place before" },
  { key: "W K", does: "findings or to do; tick off" },
  { key: "S", does: "section" },
  { key: "R", does: "taper of the walls, finish line unrolled" },
  { key: "B", does: "simulate strokes" },
  { key: "I", does: "pin: press the tooth, read every lens there" },
  { key: "C", does: "another attempt beside this one" },
  { key: "G", does: "opposing teeth" },
  { key: "X", does: "as in the mouth mirror" },
  { key: "T", does: "dim or light" },
];
const PLAN: Key[] = [
  { key: "O F L M D", does: "views" },
  { key: "N", does: "next depth" },
  { key: "X T", does: "mirror; dim or light" },
];

const VISIT: Key[] = [
  { key: "N", does: "next step: ends the one before" },
  { key: "T", does: "dim or light" },
];

export function keysOf(path: string): Key[] {
  const [first, , last] = path.split("/").filter(Boolean);
  if (first !== "case" || last === "scans") return EVERYWHERE;
  if (last === "visit") return [...VISIT, ...EVERYWHERE];
  return [...(last === "plan" ? PLAN : SHEET), ...EVERYWHERE];
}

/** A step of the first walk: what it points at, and what to do there. */
export interface Step {
  at: string;
  title: string;
  says: string;
}
export const WALK: Step[] = [
  {
    at: "answer",
    title: "The answer",
    says: "May I stop? One line says it. Not yet: the gravest place and by how much. Under it, one row a place.",
  },
  {
    at: "next",
    title: "From place to place",
    says: "Next (N) turns the tooth to the place that matters most, from its best side, under its own lens.",
  },
  {
    at: "tools",
    title: "Look closer",
    says: "Section (S) slices the tooth before and after, with thickness in figures. Pin (I) reads any place.",
  },
  {
    at: "todo",
    title: "What to do",
    says: "To do (W) lists the strokes in the order of work, with bur and view. Simulate (B) tries one first.",
  },
  {
    at: "sheet",
    title: "Scan again",
    says: "Drop the next scan anywhere on this page. It is measured as the next attempt, until it says: Stop.",
  },
];
