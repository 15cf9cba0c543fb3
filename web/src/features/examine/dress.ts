import { api, type ReadingDetail, type Result } from "../../api/client";
import type { Detail, SheetScene } from "../../sheet/scene";
import type { Mode } from "../../sheet/worn";
import type { Vec } from "../../sheet/vectors";
import { words } from "../vocabulary.svelte";

const TRIED_DEG = 25; // of lean that show as a millimetre would: the colours' own scale
const EDGE_TOLD_MM = 0.03;
const USUAL_DOUBT_MM = 0.03;
const CHANGE_TOLD_MM = 0.05; // less than this two scans differ by anyway
const NONE = new Float32Array(0);
const OTHER_PICTURE =
  "The measurement belongs to an earlier picture of this tooth: its colours are not shown. Measure again.";

/** What a tooth is dressed by: the lens, and what was measured of it. */
export interface Worn {
  readonly lens: string;
  readonly readingId: string;
  readonly detail: ReadingDetail | null;
  readonly result: Result | null;
  readonly document: Result["document"] | null;
}

/** What the tooth wears on the sheet: the fields of the chosen lens. */
export class Dress {
  scene: SheetScene | null = null;
  #wish: Vec | null = null;
  #trying = false;
  #turn = 0; // counts what the tooth is asked to wear; what arrives for an earlier wish is dropped

  constructor(readonly model: Worn) {}

  /** Take off what the tooth wears, at once: no colours of one lens, attempt or judgement under another's name. */
  strip() {
    this.#turn += 1;
    for (const detail of ["light", "rest"] as const) this.scene?.setFields(detail, null);
    this.scene?.setMode("plain", 0);
  }

  /** The chosen lens's colours on the light or the full surface. Throws where they belong to another picture. */
  async wear(detail: Detail) {
    const { lens, result } = this.model;
    const turn = this.#turn;
    if (!result?.fields || !this.scene || !this.scene.count(detail)) return;
    const prep = this.model.detail?.scans.find((s) => s.role === "prep");
    const shown = detail === "light" ? prep?.light_hash : prep?.rest_hash;
    if (!shown || result.meshes[detail] !== shown) throw new Error(OTHER_PICTURE);
    const field = words.lens(lens)?.field ?? null;
    if (field === "next" || field === "change") return this.#difference(detail, field, turn);
    if (field === null) {
      this.scene.setFields(detail, null);
      this.scene.setMode("plain", 0);
      return;
    }
    const depth = field === "depth";
    const [value, low, high, unseen] = await Promise.all([
      this.#field(`${detail}/${field}`),
      this.#field(`${detail}/${field === "cusps" ? "cusps_min" : "depth_min"}`),
      depth ? this.#field(`${detail}/depth_max`) : NONE,
      depth ? this.#field(`${detail}/unseen`) : NONE,
    ]);
    if (turn !== this.#turn) return;
    // Draw: depth under an overhang counts down from nought, and cement space allows a little of it.
    const allowed = field === "draw" ? this.allowed : field === "edges" ? EDGE_TOLD_MM : null;
    this.scene.setFields(detail, {
      value,
      low: allowed === null ? low : value.map(() => -allowed),
      high,
      unseen,
    });
    const mode: Mode = field === "space" ? "room" : "judged";
    this.scene.setMode(mode, this.doubt, field === "draw");
  }

  /** How deep an undercut may be: cement space allows a little. */
  get allowed(): number {
    return this.model.document?.verdicts.find((v) => v.criterion === "undercut")?.limit ?? 0;
  }

  /** The uncertainty of what the lens shows, mm. */
  get doubt(): number {
    const { document, lens } = this.model;
    const undercut = document?.verdicts.find((v) => v.criterion === "undercut")?.U;
    const cusps = document?.verdicts.find((v) => v.criterion === "cusp-thickness" && v.U !== null)?.U;
    const field = words.lens(lens)?.field;
    const own = field === "draw" ? undercut : field === "cusps" ? cusps : document?.uncertainty.U_mm;
    return own ?? USUAL_DOUBT_MM;
  }

  /** What was taken off since another scan: of the tooth since the last attempt, of its neighbours since before. */
  async #difference(detail: Detail, lens: "next" | "change", turn: number) {
    const id = this.model.readingId;
    const off = await api.difference(id, lens === "change" ? "previous" : "before", detail);
    const mine = lens === "next" ? await this.#field(`${detail}/depth_min`) : NONE;
    if (turn !== this.#turn) return;
    // The tooth that was cut on purpose is no neighbour.
    const value = off.map((v, i) => (lens === "next" && !Number.isNaN(mine[i] ?? NaN) ? NaN : v));
    this.scene?.setFields(detail, { value, low: value.map(() => 0), high: NONE, unseen: NONE });
    this.scene?.setMode("taken", CHANGE_TOLD_MM);
  }

  /** Show how the walls would lean along a path, without keeping it. Only the newest wish is asked for. */
  async tryPath(direction: Vec) {
    this.#wish = direction;
    if (this.#trying) return;
    this.#trying = true;
    try {
      while (this.#wish) {
        const wish: Vec = this.#wish;
        this.#wish = null;
        const turn = this.#turn;
        const draft = await api.draft(this.model.readingId, wish, "light");
        const inside = await this.#field("light/draw");
        if (turn !== this.#turn) continue;
        this.scene?.setFields("light", {
          value: draft.map((d, i) => (Number.isNaN(inside[i] ?? NaN) ? NaN : d / TRIED_DEG)),
          low: draft.map(() => 0),
          high: NONE,
          unseen: NONE,
        });
        this.scene?.setMode("judged", 1 / TRIED_DEG);
        this.scene?.holdLight(true);
      }
    } finally {
      this.#trying = false;
    }
  }

  async #field(name: string): Promise<Float32Array> {
    const digest = this.model.result?.fields[name];
    return new Float32Array(digest ? await api.blob(digest) : new ArrayBuffer(0));
  }
}
