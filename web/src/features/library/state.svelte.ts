import { api, type Bur, type Limits, type Sequence, type Standard, type Tried } from "../../api/client";
import { ownCopy } from "../own";
import { Tracked } from "../tracked.svelte";
import { words } from "../vocabulary.svelte";

export type Table = "reduction" | "finish_line_width" | "clearance";
export interface Row {
  table: Table;
  key: string;
  title: string;
  limits: Limits;
}
const TITLES: Record<Table, string> = {
  reduction: "reduction",
  finish_line_width: "finish line width",
  clearance: "least clearance",
};

/** The figures of a standard as rows to compare and edit. */
export function rowsOf(standard: Standard): Row[] {
  return (["reduction", "finish_line_width", "clearance"] as const).flatMap((table) =>
    Object.entries(standard[table]).map(([key, limits]) => ({
      table,
      key,
      title: `${TITLES[table]}, ${key === "all" ? "all round" : key.replaceAll("-", " ")}`,
      limits,
    })),
  );
}

/** What is wrong with a row as it is typed, or "". */
export function slip(limits: Limits): string {
  const { min, target, max } = limits;
  if (![min, target, max].every((v) => Number.isFinite(v))) return "Three numbers are needed.";
  if (!(min > 0 && min < target && target <= max)) return "It must hold that 0 < min < target ≤ max.";
  if (max > 4) return "The unit is mm: no taught depth is over 4.";
  if (!limits.source.trim()) return "A value needs its source.";
  return "";
}

/** A target nearer to its minimum than a hand's allowance cannot be met reliably. */
export function tight(limits: Limits): boolean {
  return limits.target - limits.min < 0.2 - 1e-9;
}

/** A standard as it is kept: without what the server only says of it. */
function plain(standard: Standard): Record<string, unknown> {
  const data: Record<string, unknown> = { ...standard };
  for (const said of ["own", "fits", "bounds"]) delete data[said];
  return data;
}

export class Library extends Tracked {
  standards = $state<Standard[]>([]);
  sequences = $state<Sequence[]>([]);
  burs = $state<Bur[]>([]);
  trayRevision = $state(0);
  mill = $state({ revision: 0, title: "", bur_radius_mm: 0.5 });
  words = $state<{ depths: string[]; burs: string[] }>({ depths: [], burs: [] });
  compared = $state<string[]>([]);
  edited = $state<Standard | null>(null);
  order = $state<Sequence | null>(null);
  saved = $state("");
  /** What the edited standard would change in cases that are judged by it; null until it is asked. */
  tried = $state.raw<Tried | null>(null);
  trying = $state(false);
  #against = ""; // the standard that is edited

  readonly shown = $derived(
    this.compared.map((id) => this.standards.find((s) => s.id === id)).filter((s): s is Standard => !!s),
  );

  async load() {
    await this.attempt(async () => {
      const [standards, sequences, tray, mill, own] = await Promise.all([
        api.standards(),
        api.sequences(),
        api.tray(),
        api.mill(),
        api.sequenceWords(),
        words.load(),
      ]);
      this.words = own;
      this.standards = standards;
      this.sequences = sequences;
      this.burs = tray.burs;
      this.trayRevision = tray.revision;
      this.mill = mill;
      if (this.compared.length === 0) this.compared = ["lithium-disilicate-bonded", "zirconia-usual"];
    });
  }

  toggle(id: string) {
    this.compared = this.compared.includes(id)
      ? this.compared.filter((c) => c !== id)
      : [...this.compared, id].slice(-3);
  }

  /** Begin a copy of a built-in standard, or go on with one's own. */
  edit(standard: Standard) {
    this.edited = ownCopy($state.snapshot(standard) as Standard);
    this.saved = "";
    this.tried = null;
    this.#against = standard.id;
  }

  /** Try the edited standard on the cases that are judged by it now; nothing is kept. */
  async tryIt() {
    const edited = this.edited;
    if (!edited || this.trying) return;
    this.trying = true;
    await this.attempt(async () => void (this.tried = await api.tryStandard(plain(edited), this.#against)));
    this.trying = false;
  }

  async save() {
    const edited = this.edited;
    if (!edited) return;
    await this.attempt(async () => {
      const made = await api.saveStandard(edited.version, plain(edited));
      this.edited = null;
      this.saved = `Kept: ${made.title}, version ${made.version}. Cases keep the version they were judged by.`;
      this.compared = [...this.compared.filter((c) => c !== made.id), made.id].slice(-3);
      await this.load();
    });
  }

  async saveTray() {
    await this.attempt(async () => {
      const tray = await api.setTray({ revision: this.trayRevision, burs: $state.snapshot(this.burs) });
      this.trayRevision = tray.revision;
      this.saved = "The tray is kept; plans are made with it from now on.";
    });
  }

  async useGeneric() {
    await this.attempt(async () => {
      this.burs = await api.genericBurs();
    });
  }

  async saveMill() {
    await this.attempt(async () => {
      this.mill = await api.setMill($state.snapshot(this.mill));
      this.saved =
        "The mill is kept; cases measured with another bur show that they should be measured again.";
    });
  }

  editOrder(sequence: Sequence) {
    this.order = ownCopy($state.snapshot(sequence) as Sequence);
    this.saved = "";
  }

  async saveOrder() {
    const order = this.order;
    if (!order) return;
    await this.attempt(async () => {
      const { id, title, teeth, restorations, reason, source, steps, version } = $state.snapshot(
        order,
      ) as Sequence;
      const made = await api.saveSequence({
        expected_version: version,
        id,
        title,
        teeth,
        restorations,
        reason,
        source,
        steps,
      });
      this.order = null;
      this.saved = `Kept: ${made.title}, version ${made.version}.`;
      await this.load();
    });
  }
}
