import { steer } from "./pointer";
import { SheetScene } from "./scene";
import type { Vec } from "./vectors";

export interface StageHooks {
  mirrored?: () => boolean;
  /** A still press on the tooth, null beside it, and where on the canvas. */
  press?: (place: Vec | null, x: number, y: number) => void;
  resized?: (width: number) => void;
}

/** A scene on a canvas that turns under the hand and follows its frame's size; `leave` gives everything back. */
export function stage(canvas: HTMLCanvasElement, frame: HTMLElement, hooks: StageHooks = {}) {
  const scene = new SheetScene(canvas);
  const stop = steer(
    scene,
    frame,
    () => hooks.mirrored?.() ?? false,
    (x, y) => hooks.press?.(scene.pick(x, y), x, y),
  );
  const watch = new ResizeObserver(() => {
    hooks.resized?.(frame.clientWidth);
    scene.resize(frame.clientWidth, frame.clientHeight);
  });
  watch.observe(frame);
  const leave = () => {
    stop();
    watch.disconnect();
    scene.dispose();
  };
  return { scene, leave };
}
