import {
  BufferAttribute,
  BufferGeometry,
  Color,
  Group,
  CatmullRomCurve3,
  LineBasicMaterial,
  LineLoop,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  OrthographicCamera,
  Raycaster,
  Scene,
  SphereGeometry,
  TubeGeometry,
  Vector2,
  Vector3,
  WebGLRenderer,
  type ShaderMaterial,
} from "three";
import { acceleratedRaycast, MeshBVH } from "three-mesh-bvh";
import type { MeshData } from "./blob";
import { ghostMaterial, judgedMaterial } from "./materials";
import { add, cross, dot, turned, unit, type Vec } from "./vectors";
import type { View } from "./views";

export type Detail = "light" | "rest";
export interface Fields {
  value: Float32Array;
  low: Float32Array;
  high: Float32Array;
  unseen: Float32Array;
}
export interface ScreenPoint {
  x: number;
  y: number;
  facing: boolean;
}

const REST_DELAY_MS = 220;
const [THIN_MM, THICK_MM, SIDES] = [0.045, 0.09, 6]; // radius of the finish line's cord
const DASH = 6; // degrees from one dash of a doubtful stretch to the next
const NO_MAXIMUM = 99; // mm: where over-cutting is not judged by depth

/** The tooth in three dimensions. Draws only when something changed: a light mesh while it moves, the full one at rest. */
export class SheetScene {
  readonly #renderer: WebGLRenderer;
  readonly #scene = new Scene();
  readonly #camera = new OrthographicCamera(-1, 1, 1, -1, -200, 200);
  readonly #material: ShaderMaterial = judgedMaterial();
  readonly #meshes = new Map<Detail, Mesh>();
  readonly #ghosts = new Map<string, Mesh>();
  #line: Mesh | null = null;
  #mark: Mesh | null = null;
  #plane: LineLoop | null = null;
  #stroke: Group | null = null;
  #curves: Group | null = null;
  #held = false;
  #target: Vec = [0, 0, 0];
  #eye: Vec = [0, 0, 1];
  #up: Vec = [0, 1, 0];
  #span = 20;
  #moving = false;
  #pending = 0;
  #timer = 0;
  #size = { width: 1, height: 1 };
  /** Hears that a picture was drawn, so that labels can follow. */
  onDraw: () => void = () => {};

  constructor(readonly canvas: HTMLCanvasElement) {
    this.#renderer = new WebGLRenderer({
      canvas,
      antialias: false,
      alpha: false,
      powerPreference: "low-power",
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
    this.#size = { width, height };
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

  setGhost(name: string, data: MeshData | null, colour: [number, number, number], matrix: number[][] | null) {
    if (!data) {
      this.#drop(this.#ghosts, name);
    } else {
      const mesh = new Mesh(this.#geometry(data), ghostMaterial(colour));
      if (matrix) {
        mesh.matrixAutoUpdate = false;
        mesh.matrix.copy(new Matrix4().set(...(matrix.flat() as Parameters<Matrix4["set"]>)));
      }
      mesh.renderOrder = 2;
      this.#swap(this.#ghosts, name, mesh);
    }
    this.draw();
  }

  setFields(detail: Detail, fields: Fields | null) {
    const mesh = this.#meshes.get(detail);
    if (!mesh) return;
    const count = mesh.geometry.getAttribute("position").count;
    const known = new Float32Array(count);
    for (const name of ["value", "low", "high", "unseen"] as const) {
      const array = new Float32Array(count).fill(name === "high" ? NO_MAXIMUM : 0);
      const given = fields?.[name];
      if (given && given.length === count) {
        for (let i = 0; i < count; i++) {
          if (Number.isNaN(given[i]!)) continue;
          array[i] = given[i]!;
          if (name === "value" || name === "low") known[i] = known[i]! + 0.5;
        }
      }
      mesh.geometry.setAttribute(name, new BufferAttribute(array, 1));
    }
    mesh.geometry.setAttribute("known", new BufferAttribute(known, 1));
    this.draw();
  }

  setJudged(judged: boolean, uncertainty: number) {
    this.#material.uniforms.uLens!.value = judged ? 1 : 0;
    this.#material.uniforms.uU!.value = uncertainty;
    this.draw();
  }

  /** The finish line as a cord on the surface; dashed where it is in doubt. */
  setLine(points: number[][], doubtful: boolean[], thick = false) {
    this.#clear("line");
    if (points.length < 4) return;
    const curve = new CatmullRomCurve3(
      points.map((p) => new Vector3(p[0], p[1], p[2])),
      true,
    );
    const geometry = new TubeGeometry(curve, points.length, thick ? THICK_MM : THIN_MM, SIDES, true);
    const index = geometry.getIndex()!.array;
    const perRing = SIDES * 6;
    // Rings come in the order of the points; a dash leaves some of them out.
    const kept = Array.from(index).filter((_, k) => {
      const ring = Math.floor(k / perRing);
      return !doubtful[ring % points.length] || ring % DASH < DASH / 2;
    });
    geometry.setIndex(kept);
    this.#line = new Mesh(geometry, new MeshBasicMaterial({ color: "#0f3d38" }));
    this.#scene.add(this.#line);
    this.draw();
  }

  /** A ball at a place on the tooth, or none. */
  setMark(place: Vec | null) {
    this.#clear("mark");
    if (place) {
      this.#mark = new Mesh(new SphereGeometry(0.22, 12, 8), new MeshBasicMaterial({ color: "#b0561a" }));
      this.#mark.position.set(...place);
      this.#scene.add(this.#mark);
    }
    this.draw();
  }

  #clear(what: "line" | "mark") {
    const old = what === "line" ? this.#line : this.#mark;
    if (!old) return;
    this.#scene.remove(old);
    old.geometry.dispose();
    (old.material as MeshBasicMaterial).dispose();
    if (what === "line") this.#line = null;
    else this.#mark = null;
  }

  /** Points of a curve that is being drawn, and the line through them. */
  setStroke(points: Vec[]) {
    this.#stroke = this.#regroup(
      this.#stroke,
      points.length ? [this.#cord(points, false, "#b0561a", true)] : [],
    );
  }

  /** Curves drawn earlier: gingiva, core border. */
  setCurves(curves: (number[][] | null | undefined)[]) {
    const colours = ["#a03a5c", "#5a4a8a"];
    const groups = curves.flatMap((points, k) =>
      points
        ? [
            this.#cord(
              points.map((p) => [p[0]!, p[1]!, p[2]!]),
              true,
              colours[k]!,
              false,
            ),
          ]
        : [],
    );
    this.#curves = this.#regroup(this.#curves, groups);
  }

  /** Keep showing the light mesh at rest: while a path is tried, only its fields follow the hand. */
  holdLight(hold: boolean) {
    this.#held = hold;
    this.draw();
  }

  #cord(points: Vec[], closed: boolean, colour: string, dots: boolean): Group {
    const group = new Group();
    const material = new MeshBasicMaterial({ color: colour });
    if (points.length > 1) {
      const course = new CatmullRomCurve3(
        points.map((p) => new Vector3(...p)),
        closed,
        "centripetal",
      );
      group.add(
        new Mesh(new TubeGeometry(course, points.length * 6, THICK_MM * 0.8, SIDES, closed), material),
      );
    }
    if (dots) {
      for (const p of points) {
        const ball = new Mesh(new SphereGeometry(0.16, 10, 6), material);
        ball.position.set(...p);
        group.add(ball);
      }
    }
    return group;
  }

  #regroup(old: Group | null, groups: Group[]): Group | null {
    if (old) {
      this.#scene.remove(old);
      old.traverse((child) => {
        if (child instanceof Mesh) {
          child.geometry.dispose();
          (child.material as MeshBasicMaterial).dispose();
        }
      });
    }
    this.draw();
    if (groups.length === 0) return null;
    const all = new Group();
    for (const group of groups) all.add(group);
    this.#scene.add(all);
    return all;
  }

  /** Outline of the section plane, or null. */
  setPlane(corners: Vec[] | null) {
    if (this.#plane) {
      this.#scene.remove(this.#plane);
      this.#plane.geometry.dispose();
      (this.#plane.material as LineBasicMaterial).dispose();
      this.#plane = null;
    }
    if (corners) {
      const geometry = new BufferGeometry();
      geometry.setAttribute("position", new BufferAttribute(new Float32Array(corners.flat()), 3));
      this.#plane = new LineLoop(geometry, new LineBasicMaterial({ color: "#b0761a" }));
      this.#scene.add(this.#plane);
    }
    this.draw();
  }

  look(view: View, target: Vec, span?: number) {
    this.#eye = unit(view.eye);
    this.#target = target;
    this.#up = unit(add(view.up, this.#eye, -dot(view.up, this.#eye)));
    if (span) this.#span = span;
    this.draw();
  }

  turn(dx: number, dy: number) {
    const right = cross(this.#up, this.#eye);
    this.#eye = unit(turned(turned(this.#eye, this.#up, -dx * 0.008), right, -dy * 0.008));
    this.#up = unit(turned(this.#up, right, -dy * 0.008));
    this.#up = unit(add(this.#up, this.#eye, -dot(this.#up, this.#eye)));
    this.#move();
  }

  shift(dx: number, dy: number) {
    const perPixel = this.#span / this.#size.height;
    const right = cross(this.#up, this.#eye);
    this.#target = add(add(this.#target, right, -dx * perPixel), this.#up, dy * perPixel);
    this.#move();
  }

  zoom(factor: number) {
    this.#span = Math.min(90, Math.max(3, this.#span * factor));
    this.#move();
  }

  /** The place on the full mesh under a canvas point, or null. */
  pick(x: number, y: number): Vec | null {
    const mesh = this.#meshes.get("rest") ?? this.#meshes.get("light");
    if (!mesh) return null;
    this.#placeCamera();
    const caster = new Raycaster();
    const at = new Vector2((x / this.#size.width) * 2 - 1, 1 - (y / this.#size.height) * 2);
    caster.setFromCamera(at, this.#camera);
    caster.firstHitOnly = true;
    const hit = caster.intersectObject(mesh)[0];
    return hit ? [hit.point.x, hit.point.y, hit.point.z] : null;
  }

  /** Whether a place on the tooth is seen, or hidden by something nearer. */
  visible(place: Vec): boolean {
    const mesh = this.#meshes.get("rest") ?? this.#meshes.get("light");
    if (!mesh) return false;
    const from = add(place, this.#eye, 0.25);
    const caster = new Raycaster(new Vector3(...from), new Vector3(...this.#eye), 0, 60);
    caster.firstHitOnly = true;
    return caster.intersectObject(mesh).length === 0;
  }

  project(place: Vec): ScreenPoint {
    this.#placeCamera();
    const p = new Vector3(...place).project(this.#camera);
    const facing = dot(add(place, this.#target, -1), this.#eye) > -3.5;
    return {
      x: ((p.x + 1) / 2) * this.#size.width,
      y: ((1 - p.y) / 2) * this.#size.height,
      facing,
    };
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
    this.#clear("line");
    this.#clear("mark");
    this.setPlane(null);
    this.#stroke = this.#regroup(this.#stroke, []);
    this.#curves = this.#regroup(this.#curves, []);
    cancelAnimationFrame(this.#pending);
    this.#material.dispose();
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

  #render() {
    const light = this.#meshes.get("light");
    const rest = this.#meshes.get("rest");
    const useLight = !rest || ((this.#moving || this.#held) && !!light);
    if (light) light.visible = useLight;
    if (rest) rest.visible = !useLight;
    this.#placeCamera();
    this.#renderer.render(this.#scene, this.#camera);
    this.onDraw();
  }

  #placeCamera() {
    const half = this.#span / 2;
    const aspect = this.#size.width / this.#size.height;
    const camera = this.#camera;
    [camera.left, camera.right, camera.top, camera.bottom] = [-half * aspect, half * aspect, half, -half];
    camera.position.set(...add(this.#target, this.#eye, 60));
    camera.up.set(...this.#up);
    camera.lookAt(...this.#target);
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
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
