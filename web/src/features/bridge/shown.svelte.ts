import type { SheetScene } from "../../sheet/scene";
import { add, cross, unit, type Vec } from "../../sheet/vectors";
import { viewOf, type Frame, type ViewName } from "../../sheet/views";
import { Tracked } from "../tracked.svelte";
import { middleOf } from "./bodies";

export const SPAN_VIEWS: ViewName[] = ["occlusal", "facial", "lingual"];

/** What stands at a place of the sheet, in words. */
export interface Label {
  text: string;
  at: Vec;
  bad: boolean;
}

/** Facial and mesial as the row of abutments has them on the whole, occlusal along the path. */
export function frameAlong(path: Vec, each: Pick<Frame, "facial" | "mesial">[]): Frame {
  const sum = (way: "facial" | "mesial") => each.reduce<Vec>((total, one) => add(total, one[way]), [0, 0, 0]);
  const occlusal = unit(path);
  const facial = unit(cross(occlusal, cross(sum("facial"), occlusal)));
  return { occlusal, facial, mesial: unit(sum("mesial")) };
}

/** A span on a sheet of its own: as it was measured, or as it is planned. */
export abstract class Shown extends Tracked {
  view = $state<ViewName>("occlusal");
  drawn = $state(0);
  /** Whether the sheet shows what it should. */
  dressed = $state(false);
  protected scene: SheetScene | null = null;

  abstract readonly labels: Label[];
  /** Put on the sheet what belongs there, once a scene and what is shown are known. */
  protected abstract dress(): Promise<void>;
  abstract look(name: ViewName): void;

  async attach(scene: SheetScene) {
    this.scene = scene;
    scene.onDraw = () => (this.drawn += 1);
    await this.attempt(() => this.dress());
  }

  detach() {
    this.scene = null;
    this.dressed = false;
  }

  leave() {
    this.unwatch();
  }

  protected turn(name: ViewName, frame: Frame, middles: Vec[], spanMm: number) {
    this.view = name;
    this.scene?.look(viewOf(name, frame), middleOf(middles), spanMm);
  }
}
