import { OrthographicCamera, Raycaster, Vector2, Vector3 } from "three";
import { add, cross, dot, turned, unit, type Vec } from "./vectors";
import type { View } from "./views";

export interface ScreenPoint {
  x: number;
  y: number;
  facing: boolean;
  towards: number; // mm from the tooth's middle towards the eye
}

const AWAY_MM = 60; // from the eye to what it looks at
const [NEAREST_MM, WIDEST_MM] = [3, 90]; // height of the picture, on the tooth
const TURN_RAD = 0.008; // for a dot that the hand moves
const OFF_MM = 0.25; // over a place, so that the surface that it lies on does not hide it
const BEHIND_MM = 3.5; // further from the eye than the tooth's middle a place does not face it

/** From where, how wide and on how many dots the tooth is looked at, without perspective. */
export class Eye {
  size = { width: 1, height: 1 };
  readonly #camera = new OrthographicCamera(-1, 1, 1, -1, -200, 200);
  #target: Vec = [0, 0, 0];
  #eye: Vec = [0, 0, 1];
  #up: Vec = [0, 1, 0];
  #span = 20;

  look(view: View, target: Vec, span?: number) {
    this.#eye = unit(view.eye);
    this.#target = target;
    this.#up = unit(add(view.up, this.#eye, -dot(view.up, this.#eye)));
    if (span) this.#span = span;
  }

  get now(): { view: View; target: Vec; span: number } {
    return { view: { eye: this.#eye, up: this.#up }, target: this.#target, span: this.#span };
  }

  turn(dx: number, dy: number) {
    const right = this.#right;
    this.#eye = unit(turned(turned(this.#eye, this.#up, -dx * TURN_RAD), right, -dy * TURN_RAD));
    this.#up = unit(turned(this.#up, right, -dy * TURN_RAD));
    this.#up = unit(add(this.#up, this.#eye, -dot(this.#up, this.#eye)));
  }

  shift(dx: number, dy: number) {
    this.#target = add(add(this.#target, this.#right, -dx * this.#perDot), this.#up, dy * this.#perDot);
  }

  zoom(factor: number) {
    this.#span = Math.min(WIDEST_MM, Math.max(NEAREST_MM, this.#span * factor));
  }

  /** Where a place on the tooth lies on the picture. */
  project(place: Vec): ScreenPoint {
    const p = new Vector3(...place).project(this.camera());
    const towards = dot(add(place, this.#target, -1), this.#eye);
    return {
      x: ((p.x + 1) / 2) * this.size.width,
      y: ((1 - p.y) / 2) * this.size.height,
      facing: towards > -BEHIND_MM,
      towards,
    };
  }

  /** The place under a dot of the picture that lies as far from the eye as another does. */
  levelWith(x: number, y: number, place: Vec): Vec {
    const there = this.project(place);
    return add(add(place, this.#right, (x - there.x) * this.#perDot), this.#up, (there.y - y) * this.#perDot);
  }

  /** Whether a direction on the tooth looks towards the eye. */
  faces(normal: Vec): boolean {
    return dot(normal, this.#eye) > 0.3;
  }

  /** What lies under a dot of the picture, the nearest first. */
  ray(x: number, y: number): Raycaster {
    const caster = new Raycaster();
    const at = new Vector2((x / this.size.width) * 2 - 1, 1 - (y / this.size.height) * 2);
    caster.setFromCamera(at, this.camera());
    caster.firstHitOnly = true;
    return caster;
  }

  /** What lies between a place on the tooth and the eye. */
  back(place: Vec): Raycaster {
    const from = add(place, this.#eye, OFF_MM);
    const caster = new Raycaster(new Vector3(...from), new Vector3(...this.#eye), 0, AWAY_MM);
    caster.firstHitOnly = true;
    return caster;
  }

  /** The camera as the eye is now. */
  camera(): OrthographicCamera {
    const half = this.#span / 2;
    const aspect = this.size.width / this.size.height;
    const camera = this.#camera;
    [camera.left, camera.right, camera.top, camera.bottom] = [-half * aspect, half * aspect, half, -half];
    camera.position.set(...add(this.#target, this.#eye, AWAY_MM));
    camera.up.set(...this.#up);
    camera.lookAt(...this.#target);
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
    return camera;
  }

  get #right(): Vec {
    return cross(this.#up, this.#eye);
  }

  /** mm on the tooth for a dot of the picture. */
  get #perDot(): number {
    return this.#span / this.size.height;
  }
}
