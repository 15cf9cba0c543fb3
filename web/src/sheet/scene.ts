import {
  BufferAttribute,
  BufferGeometry,
  Color,
  LineLoop,
  Material,
  Matrix4,
  Mesh,
  Scene,
  Vector3,
  WebGLRenderer,
  type ShaderMaterial,
} from "three";
import { acceleratedRaycast, MeshBVH } from "three-mesh-bvh";
import type { MeshData } from "./blob";
import { ghostMaterial, judgedMaterial, shadowMaterial } from "./materials";
import type { ContourNumber } from "./contours";
import { Eye, type ScreenPoint } from "./eye";
import { ball, cord, finishLine, outline } from "./marks";
import { vec, type Vec } from "./vectors";
import type { View } from "./views";
import { numbersOf, readingAt, wear, type Fields, type Mode, type Reading } from "./worn";

export type Detail = "light" | "rest";
const MODES: Mode[] = ["plain", "judged", "room", "taken"];
const REST_DELAY_MS = 220;
// Where pictures come slower than this while the tooth turns (no graphics card), they are drawn with fewer dots.
const [SLOW_MS, PAUSE_MS, COARSE] = [70, 400, 0.6];

/** A mesh stands where a rigid 4 x 4 matrix, row by row, puts it. */
function place(mesh: Mesh, matrix: number[][]) {
  mesh.matrixAutoUpdate = false;
  mesh.matrix.copy(new Matrix4().set(...(matrix.flat() as Parameters<Matrix4["set"]>)));
  mesh.matrixWorldNeedsUpdate = true;
}

/** The tooth in three dimensions. Draws only when something changed: a light mesh while it moves, the full one at rest. */
export class SheetScene {
  readonly #renderer: WebGLRenderer;
  readonly #scene = new Scene();
  readonly #eye = new Eye();
  readonly #material: ShaderMaterial = judgedMaterial();
  readonly #shadow: ShaderMaterial = shadowMaterial();
  #mode: Mode = "plain";
  #shadowed = false;
  #through: Mesh | null = null;
  readonly #meshes = new Map<Detail, Mesh>();
  readonly #ghosts = new Map<string, Mesh>();
  readonly #drawn = new Map<string, (Mesh | LineLoop)[]>();
  #held = false;
  #moving = false;
  #pending = 0;
  #timer = 0;
  #drawnAt = 0;
  #slow = false; // pictures come too slowly while the tooth turns
  #sharpness = 1; // dots of the picture for a dot of the screen
  /** Hears that a picture was drawn, so that labels can follow. */
  onDraw: () => void = () => {};

  constructor(readonly canvas: HTMLCanvasElement) {
    this.#renderer = new WebGLRenderer({
      canvas,
      antialias: false,
      alpha: false,
      powerPreference: "low-power",
      preserveDrawingBuffer: true, // what is seen can be taken as a picture
    });
    this.#renderer.setPixelRatio(1);
    this.setGround("#f3f0e7", false);
  }

  setGround(colour: string, dim: boolean) {
    this.#scene.background = new Color(colour);
    this.#material.uniforms.uDim!.value = dim ? 1 : 0;
    this.draw();
  }

  resize(width: number, height: number) {
    if (width < 1 || height < 1) return;
    this.#eye.size = { width, height };
    this.#renderer.setSize(width, height, false);
    this.draw();
  }

  setPrep(detail: Detail, data: MeshData) {
    const mesh = new Mesh(this.#geometry(data), this.#material);
    mesh.raycast = acceleratedRaycast;
    this.#swap(this.#meshes, detail, mesh);
    if (detail === "rest") mesh.geometry.boundsTree = new MeshBVH(mesh.geometry);
    this.draw();
  }

  /** Take the tooth off the sheet, so that nothing of one attempt is seen under another's name. */
  clear() {
    for (const key of [...this.#meshes.keys()]) this.#drop(this.#meshes, key);
    this.setLine([], []);
    this.setMark(null);
    this.draw();
  }

  /** How many vertices a shown mesh has; 0 where it is not there. */
  count(detail: Detail): number {
    return this.#meshes.get(detail)?.geometry.getAttribute("position").count ?? 0;
  }

  setGhost(name: string, data: MeshData | null, colour: [number, number, number], matrix: number[][] | null) {
    if (!data) {
      this.#drop(this.#ghosts, name);
    } else {
      const mesh = new Mesh(this.#geometry(data), ghostMaterial(colour));
      if (matrix) place(mesh, matrix);
      mesh.renderOrder = 2;
      this.#swap(this.#ghosts, name, mesh);
    }
    this.draw();
  }

  /** A ghost stands elsewhere from now on. */
  moveGhost(name: string, matrix: number[][]) {
    const mesh = this.#ghosts.get(name);
    if (!mesh) return;
    place(mesh, matrix);
    this.draw();
  }

  /** The values that colour a mesh, one for each of its vertices; an empty array where nothing is known. */
  setFields(detail: Detail, fields: Fields | null) {
    const mesh = this.#meshes.get(detail);
    if (!mesh) return;
    wear(mesh.geometry, fields);
    this.draw();
  }

  setMode(mode: Mode, uncertainty: number, shadow = false) {
    this.#mode = mode;
    this.#material.uniforms.uMode!.value = MODES.indexOf(mode);
    this.#material.uniforms.uU!.value = uncertainty;
    this.#shadowed = shadow;
    this.draw();
  }

  /** Numbers for the contour lines of what the tooth wears; none where it wears nothing. */
  numbers(step: number): ContourNumber[] {
    const mesh = this.#meshes.get("light");
    if (!mesh) return [];
    return numbersOf(mesh.geometry, this.#mode, this.#material.uniforms.uU!.value as number, step);
  }

  /** What the tooth says under a canvas point, or null beside it. */
  read(x: number, y: number): Reading | null {
    const hit = this.#hit(x, y);
    if (!hit?.face) return null;
    return this.#readAt([hit.point.x, hit.point.y, hit.point.z], [hit.face.a, hit.face.b, hit.face.c]);
  }

  /** What the tooth says at a place on it; null where the full surface is not there yet. */
  readPlace(place: Vec): Reading | null {
    const geometry = this.#meshes.get("rest")?.geometry;
    const tree = geometry?.boundsTree as MeshBVH | undefined;
    const found = tree?.closestPointToPoint(new Vector3(...place));
    const index = geometry?.getIndex();
    if (!found || !index) return null;
    const corners = [0, 1, 2].map((k) => index.getX(found.faceIndex * 3 + k));
    return this.#readAt([found.point.x, found.point.y, found.point.z], corners);
  }

  #readAt(place: Vec, corners: number[]): Reading | null {
    const mesh = this.#meshes.get("rest") ?? this.#meshes.get("light");
    if (!mesh) return null;
    return readingAt(mesh.geometry, this.#mode, place, corners);
  }

  /** The finish line as a cord on the surface; dashed where it is in doubt. */
  setLine(points: number[][], doubtful: boolean[], thick = false) {
    this.#put("line", points.length < 4 ? [] : [finishLine(points, doubtful, thick)]);
  }

  /** A ball at a place on the tooth, or none. */
  setMark(place: Vec | null) {
    this.#put("mark", place ? [ball(place, 0.22, "#b0561a")] : []);
  }

  /** Points of a curve that is being drawn, and the line through them. */
  setStroke(points: Vec[]) {
    const colour = "#b0561a";
    const dots = points.map((p) => ball(p, 0.16, colour));
    this.#put("stroke", points.length > 1 ? [...dots, cord(points, false, colour)] : dots);
  }

  /** Places that were pointed at, as balls. */
  setPlaces(points: Vec[]) {
    this.#put(
      "places",
      points.map((p) => ball(p, 0.35, "#b0561a")),
    );
  }

  /** Curves drawn earlier: gingiva, core border. */
  setCurves(curves: (number[][] | null | undefined)[]) {
    const colours = ["#a03a5c", "#5a4a8a"];
    this.#put(
      "curves",
      curves.flatMap((points, k) => (points ? [cord(points.map(vec), true, colours[k]!)] : [])),
    );
  }

  /** Outline of the section plane, or null. */
  setPlane(corners: Vec[] | null) {
    this.#put("plane", corners ? [outline(corners)] : []);
  }

  /** A straight line between two places, as a tape is held; null takes it away. */
  setTape(ends: [Vec, Vec] | null) {
    this.#put("tape", ends ? [cord(ends, false, "#b0561a")] : []);
  }

  /** Put what is drawn on the tooth under a name in place of what was there. */
  #put(name: string, objects: (Mesh | LineLoop)[]) {
    const before = this.#drawn.get(name) ?? [];
    if (before.length + objects.length === 0) return;
    for (const old of before) {
      this.#scene.remove(old);
      old.geometry.dispose();
      (old.material as Material).dispose();
    }
    this.#drawn.set(name, objects);
    for (const object of objects) this.#scene.add(object);
    this.draw();
  }

  /** Keep showing the light mesh at rest: while a path is tried, only its fields follow the hand. */
  holdLight(hold: boolean) {
    this.#held = hold;
    this.draw();
  }

  look(view: View, target: Vec, span?: number) {
    this.#eye.look(view, target, span);
    this.draw();
  }

  /** How the tooth is looked at now. */
  get eye(): { view: View; target: Vec; span: number } {
    return this.#eye.now;
  }

  turn(dx: number, dy: number) {
    this.#eye.turn(dx, dy);
    this.#move();
  }

  shift(dx: number, dy: number) {
    this.#eye.shift(dx, dy);
    this.#move();
  }

  zoom(factor: number) {
    this.#eye.zoom(factor);
    this.#move();
  }

  /** The place on the full mesh under a canvas point, or null. */
  pick(x: number, y: number): Vec | null {
    const hit = this.#hit(x, y);
    return hit ? [hit.point.x, hit.point.y, hit.point.z] : null;
  }

  /** The place under a canvas point that lies as far from the eye as another does. */
  levelWith(x: number, y: number, place: Vec): Vec {
    return this.#eye.levelWith(x, y, place);
  }

  #hit(x: number, y: number) {
    const mesh = this.#meshes.get("rest") ?? this.#meshes.get("light");
    if (!mesh) return null;
    const caster = this.#eye.ray(x, y);
    return caster.intersectObject(mesh)[0] ?? null;
  }

  /** Whether a direction on the tooth looks towards the eye. */
  faces(normal: Vec): boolean {
    return this.#eye.faces(normal);
  }

  /** Whether a place on the tooth is seen, or hidden by something nearer. */
  visible(place: Vec): boolean {
    const mesh = this.#meshes.get("rest") ?? this.#meshes.get("light");
    return mesh !== undefined && this.#eye.back(place).intersectObject(mesh).length === 0;
  }

  project(place: Vec): ScreenPoint {
    return this.#eye.project(place);
  }

  draw() {
    if (this.#pending) return;
    this.#pending = requestAnimationFrame(() => {
      this.#pending = 0;
      this.#render();
    });
  }

  dispose() {
    cancelAnimationFrame(this.#pending);
    clearTimeout(this.#timer);
    for (const key of [...this.#meshes.keys()]) this.#drop(this.#meshes, key);
    for (const key of [...this.#ghosts.keys()]) this.#drop(this.#ghosts, key);
    for (const name of [...this.#drawn.keys()]) this.#put(name, []);
    cancelAnimationFrame(this.#pending);
    this.#material.dispose();
    this.#shadow.dispose();
    this.#renderer.dispose();
    this.#renderer.forceContextLoss();
  }

  #move() {
    this.#moving = true;
    clearTimeout(this.#timer);
    this.#timer = window.setTimeout(() => {
      this.#moving = false;
      this.draw();
    }, REST_DELAY_MS);
    this.draw();
  }

  /** Fewer dots while the tooth turns, where pictures come slowly; all of them at rest. */
  #sharpen() {
    const now = performance.now();
    const gap = now - this.#drawnAt;
    this.#drawnAt = now;
    if (this.#moving && gap > SLOW_MS && gap < PAUSE_MS) this.#slow = true;
    const wanted = this.#moving && this.#slow ? COARSE : 1;
    if (wanted === this.#sharpness) return;
    this.#sharpness = wanted;
    this.#renderer.setPixelRatio(wanted);
    this.#renderer.setSize(this.#eye.size.width, this.#eye.size.height, false);
  }

  #render() {
    this.#sharpen();
    const light = this.#meshes.get("light");
    const rest = this.#meshes.get("rest");
    const useLight = !rest || ((this.#moving || this.#held) && !!light);
    if (light) light.visible = useLight;
    if (rest) rest.visible = !useLight;
    this.#castShadow(useLight ? light : rest);
    this.#renderer.render(this.#scene, this.#eye.camera());
    this.onDraw();
  }

  /** What the lens says is short, drawn once more through everything, where the lens asks for it. */
  #castShadow(mesh: Mesh | undefined) {
    if (this.#through) this.#scene.remove(this.#through);
    this.#through = null;
    if (!this.#shadowed || !mesh?.geometry.getAttribute("known")) return;
    this.#through = new Mesh(mesh.geometry, this.#shadow);
    this.#through.renderOrder = 3;
    this.#scene.add(this.#through);
  }

  #geometry(data: MeshData): BufferGeometry {
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new BufferAttribute(data.positions, 3));
    geometry.setAttribute("normal", new BufferAttribute(data.normals, 3));
    geometry.setIndex(new BufferAttribute(data.indices, 1));
    return geometry;
  }

  #swap<K>(map: Map<K, Mesh>, key: K, mesh: Mesh) {
    this.#drop(map, key);
    map.set(key, mesh);
    this.#scene.add(mesh);
  }

  #drop<K>(map: Map<K, Mesh>, key: K) {
    const old = map.get(key);
    if (!old) return;
    this.#scene.remove(old);
    old.geometry.dispose();
    if (old.material !== this.#material) (old.material as ShaderMaterial).dispose();
    map.delete(key);
  }
}
