import { add, cross, dot, scale, unit, type Vec } from "./vectors";

export interface Frame {
  occlusal: Vec;
  facial: Vec;
  mesial: Vec;
}
export type ViewName = "occlusal" | "facial" | "lingual" | "mesial" | "distal";
export interface View {
  /** From the tooth towards the eye. */
  eye: Vec;
  up: Vec;
}

/** The key of each view, on every sheet. */
export const VIEW_KEYS: Record<string, ViewName> = {
  o: "occlusal",
  f: "facial",
  l: "lingual",
  m: "mesial",
  d: "distal",
};

/** Whether mesial lies to the right when facial is up and the tooth is seen from its occlusal side. */
export const mesialIsRight = (frame: Frame): boolean =>
  dot(cross(frame.facial, frame.occlusal), frame.mesial) > 0;

/** Side views look down a little, as over a tray: straight from the side a neighbour would stand in the way. */
const DOWN = 0.42;

export function viewOf(name: ViewName, frame: Frame): View {
  const { occlusal, facial, mesial } = frame;
  if (name === "occlusal") return { eye: occlusal, up: facial };
  const side = {
    facial,
    lingual: scale(facial, -1),
    mesial,
    distal: scale(mesial, -1),
  }[name];
  const down = name === "mesial" || name === "distal" ? 1.1 : DOWN;
  return { eye: unit(add(side, occlusal, down)), up: occlusal };
}

/** The standard view from which a place on the tooth is seen best. */
export function viewFor(place: Vec, centre: Vec, frame: Frame, zone: string): ViewName {
  if (zone.startsWith("facial/") || zone.startsWith("proximal/")) return "facial";
  if (zone.startsWith("wrap")) return "lingual";
  if (!zone.startsWith("wall") && zone !== "finish-line-band") return "occlusal";
  const off = add(place, centre, -1);
  const along = (axis: Vec) => off[0] * axis[0] + off[1] * axis[1] + off[2] * axis[2];
  const [f, m] = [along(frame.facial), along(frame.mesial)];
  if (Math.abs(f) >= Math.abs(m)) return f > 0 ? "facial" : "lingual";
  return m > 0 ? "mesial" : "distal";
}
