import {
  BufferAttribute,
  BufferGeometry,
  CatmullRomCurve3,
  LineBasicMaterial,
  LineLoop,
  Mesh,
  MeshBasicMaterial,
  SphereGeometry,
  Triangle,
  TubeGeometry,
  Vector3,
} from "three";
import type { Vec } from "./vectors";

const [THIN_MM, THICK_MM, SIDES] = [0.045, 0.09, 6]; // radius of the finish line's cord
const DASH = 6; // degrees from one dash of a doubtful stretch to the next

/** The finish line as a cord on the surface; dashed where it is in doubt. */
export function finishLine(points: number[][], doubtful: boolean[], thick: boolean): Mesh {
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
  return new Mesh(geometry, new MeshBasicMaterial({ color: "#0f3d38" }));
}

/** A closed line through corners. */
export function outline(corners: Vec[]): LineLoop {
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(new Float32Array(corners.flat()), 3));
  return new LineLoop(geometry, new LineBasicMaterial({ color: "#b0761a" }));
}

export function ball(place: Vec, radius: number, colour: string): Mesh {
  const mesh = new Mesh(new SphereGeometry(radius, 12, 8), new MeshBasicMaterial({ color: colour }));
  mesh.position.set(...place);
  return mesh;
}

/** A round cord through places. */
export function cord(points: Vec[], closed: boolean, colour: string): Mesh {
  const course = new CatmullRomCurve3(
    points.map((p) => new Vector3(...p)),
    closed,
    "centripetal",
  );
  const geometry = new TubeGeometry(course, points.length * 6, THICK_MM * 0.8, SIDES, closed);
  return new Mesh(geometry, new MeshBasicMaterial({ color: colour }));
}

/** Barycentric shares of a place in a triangle of three corners. */
export function sharesOf(geometry: BufferGeometry, corners: number[], place: Vec): [number, number, number] {
  const positions = geometry.getAttribute("position");
  const [a, b, c] = corners.map((k) => new Vector3().fromBufferAttribute(positions, k)) as [
    Vector3,
    Vector3,
    Vector3,
  ];
  const out = new Vector3();
  if (!Triangle.getBarycoord(new Vector3(...place), a, b, c, out)) return [1, 0, 0];
  return [out.x, out.y, out.z];
}
