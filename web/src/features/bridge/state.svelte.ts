import {
  api,
  orNone,
  type BridgeDocument,
  type Case,
  type Job,
  type ReadingDetail,
  type Result,
} from "../../api/client";
import { router } from "../../router.svelte";
import { parseMesh, type MeshData } from "../../sheet/blob";
import type { Detail, SheetScene } from "../../sheet/scene";
import { add, vec, type Vec } from "../../sheet/vectors";
import type { ViewName } from "../../sheet/views";
import { centreOf, frameOf } from "../examine/frame";
import { siteOf } from "../site";
import { connectorBody, leaning, ponticBody } from "./bodies";
import { draftsAlong, leastDraft, wallsOf } from "./draft";
import { frameAlong, Shown, type Label } from "./shown.svelte";

const SCALE_DEG = 25; // of lean that shows as a millimetre would: the colours' own scale
const DOUBT_DEG = 0.6;
const ASIDE_MM = 6; // a tooth's number stands beside it
const ROOM_MM = 12; // of the scan beyond the outermost abutments' middles
const PONTIC: [number, number, number] = [0.12, 0.42, 0.36];
const CONNECTOR: [number, number, number] = [0.42, 0.24, 0.5];
const NONE = new Float32Array(0);

/** The teeth of an attempt held together: what was measured, and a path that is being tried. */
export class Span extends Shown {
  case = $state<Case | null>(null);
  detail = $state<ReadingDetail | null>(null);
  bridge = $state<BridgeDocument | null>(null);
  asked = $state(false);
  stale = $state(false);
  tried = $state<Vec | null>(null);
  /** Of the shown meshes: their normals, and which of their points belong to which abutment. */
  #worn: Partial<Record<Detail, { normals: Float32Array; inside: Float32Array[] }>> = {};

  readonly path = $derived<Vec | null>(this.tried ?? (this.bridge ? vec(this.bridge.path.direction) : null));
  readonly walls = $derived(this.bridge?.abutments.map(wallsOf) ?? []);
  readonly drafts = $derived(
    this.path === null ? [] : this.walls.map((walls) => draftsAlong(walls, this.path!)),
  );
  /** Along the path that is shown; each tooth has as much to say. */
  readonly least = $derived(
    this.drafts.reduce<number | null>((low, rows) => {
      const own = leastDraft(rows);
      return own === null ? low : low === null ? own : Math.min(low, own);
    }, null),
  );
  /** The abutments' numbers, and the figures of what is to stand between them. */
  readonly labels = $derived.by<Label[]>(() => {
    const bridge = this.bridge;
    if (!bridge) return [];
    const bad = (criteria: string[], zone: string) =>
      bridge.verdicts.some(
        (v) => criteria.includes(v.criterion) && v.zone === zone && ["short", "over"].includes(v.status),
      );
    return [
      ...bridge.abutments.map((one) => {
        const { facial, occlusal } = frameOf(one);
        return { text: one.tooth, at: add(add(centreOf(one), facial, ASIDE_MM), occlusal, 2), bad: false };
      }),
      ...bridge.pontics.flatMap((p) =>
        p.at && p.height_mm !== null
          ? [
              {
                text: `${p.tooth}: ${p.height_mm.toFixed(1)} high`,
                at: vec(p.at),
                bad: bad(["pontic-height"], p.tooth),
              },
            ]
          : [],
      ),
      ...bridge.connectors.flatMap((c) =>
        c.at && c.area_mm2 !== null
          ? [
              {
                text: `${c.area_mm2.toFixed(1)} mm²`,
                at: vec(c.at),
                bad: bad(["connector", "connector-height"], c.between.join("-")),
              },
            ]
          : [],
      ),
    ];
  });

  async load(caseId: string) {
    await this.attempt(async () => {
      this.case = await api.case(caseId);
      const asked = router.query.get("attempt");
      const readings = siteOf(this.case, asked)?.readings ?? [];
      const reading = readings.find((r) => r.id === asked) ?? readings.at(-1);
      if (!reading) return;
      this.detail = await api.reading(reading.id);
      const job = this.detail.bridge_job;
      if (job && (job.state === "waiting" || job.state === "running")) this.#follow(job);
      await this.#show();
    });
  }

  async #show() {
    const found = await orNone(api.bridge(this.detail!.id));
    this.bridge = found?.document ?? null;
    this.stale = found?.stale ?? false;
    this.asked = true;
    this.tried = null;
    if (this.scene) await this.dress();
  }

  async make() {
    await this.attempt(async () => this.#follow(await api.makeBridge(this.detail!.id)));
  }

  override detach() {
    super.detach();
    this.#worn = {};
  }

  /** Try a path on all abutments, or go back to the best (null). */
  tilt(path: Vec | null) {
    this.tried = path;
    this.#colour();
  }

  look(name: ViewName) {
    const bridge = this.bridge;
    if (!bridge) return;
    const frame = frameAlong(vec(bridge.path.direction), bridge.abutments.map(frameOf));
    this.turn(name, frame, bridge.abutments.map(centreOf), (bridge.span.length_mm + ROOM_MM) * 0.62);
  }

  protected async dress() {
    const [scene, detail, bridge] = [this.scene, this.detail, this.bridge];
    const prep = detail?.scans.find((s) => s.role === "prep");
    if (!scene || !detail || !bridge || !prep) return;
    const results = await this.#results(detail.attempt_id, prep.light_hash);
    for (const part of ["light", "rest"] as const) {
      const mesh = parseMesh(await api.blob(part === "light" ? prep.light_hash : prep.rest_hash));
      const inside = await Promise.all(results.map((one) => fieldOf(one, `${part}/draw`)));
      if (scene !== this.scene) return;
      scene.setPrep(part, mesh);
      this.#worn[part] = { normals: mesh.normals, inside };
      if (part === "light") {
        this.#build(scene, bridge);
        this.look(this.view);
      }
      this.#colour();
    }
    this.dressed = true;
  }

  /** What was measured of every tooth of the attempt, on this very picture of it. */
  async #results(attemptId: string, lightHash: string): Promise<Result[]> {
    const readings = (this.case?.sites ?? []).flatMap((site) => site.readings);
    const mine = readings.filter((one) => one.attempt_id === attemptId);
    const found = await Promise.all(mine.map((one) => orNone(api.result(one.id))));
    return found.filter((one): one is Result => one !== null && one.meshes["light"] === lightHash);
  }

  #build(scene: SheetScene, bridge: BridgeDocument) {
    const put = (name: string, body: MeshData | null, colour: [number, number, number]) =>
      scene.setGhost(name, body, colour, null);
    bridge.pontics.forEach((row) => put(`pontic ${row.tooth}`, ponticBody(row), PONTIC));
    bridge.connectors.forEach((row) => put(`joint ${row.between.join("-")}`, connectorBody(row), CONNECTOR));
  }

  #colour() {
    const [scene, path] = [this.scene, this.path];
    if (!scene || !path) return;
    for (const part of ["light", "rest"] as const) {
      const worn = this.#worn[part];
      if (!worn) continue;
      const { normals, inside } = worn;
      const value = leaning(normals, inside, path, SCALE_DEG);
      scene.setFields(part, { value, low: new Float32Array(value.length), high: NONE, unseen: NONE });
    }
    scene.setMode("judged", DOUBT_DEG / SCALE_DEG, true); // seen from above too, where the wall hides it
  }

  #follow(job: Job) {
    this.watch(job, () => void this.attempt(() => this.#show()));
  }
}

async function fieldOf(result: Result, name: string): Promise<Float32Array> {
  const digest = result.fields[name];
  return digest ? new Float32Array(await api.blob(digest)) : NONE;
}
