import type { SheetScene } from "./scene";

/** Dragging turns, a second button or Shift shifts, the wheel and two fingers zoom; a still press picks. */
export function steer(
  scene: SheetScene,
  element: HTMLElement,
  mirrored: () => boolean,
  onPick: (x: number, y: number) => void,
): () => void {
  const fingers = new Map<number, { x: number; y: number }>();
  let moved = 0;
  let gap = 0;

  const place = (event: PointerEvent) => {
    const box = element.getBoundingClientRect();
    const x = event.clientX - box.left;
    return { x: mirrored() ? box.width - x : x, y: event.clientY - box.top };
  };
  const down = (event: PointerEvent) => {
    element.setPointerCapture(event.pointerId);
    fingers.set(event.pointerId, place(event));
    moved = 0;
    gap = spread();
  };
  const spread = () => {
    const [a, b] = [...fingers.values()];
    return a && b ? Math.hypot(a.x - b.x, a.y - b.y) : 0;
  };
  const move = (event: PointerEvent) => {
    const before = fingers.get(event.pointerId);
    if (!before) return;
    const now = place(event);
    const [dx, dy] = [now.x - before.x, now.y - before.y];
    fingers.set(event.pointerId, now);
    moved += Math.abs(dx) + Math.abs(dy);
    if (fingers.size === 2) {
      const wide = spread();
      if (gap > 0 && wide > 0) scene.zoom(gap / wide);
      gap = wide;
    } else if (event.buttons === 2 || event.shiftKey) scene.shift(dx, dy);
    else scene.turn(dx, dy);
  };
  const up = (event: PointerEvent) => {
    if (fingers.delete(event.pointerId) && moved < 4 && event.type === "pointerup") {
      const at = place(event);
      onPick(at.x, at.y);
    }
  };
  const wheel = (event: WheelEvent) => {
    event.preventDefault();
    scene.zoom(Math.exp(event.deltaY * 0.0012));
  };
  const menu = (event: Event) => event.preventDefault();

  element.addEventListener("pointerdown", down);
  element.addEventListener("pointermove", move);
  element.addEventListener("pointerup", up);
  element.addEventListener("pointercancel", up);
  element.addEventListener("wheel", wheel, { passive: false });
  element.addEventListener("contextmenu", menu);
  return () => {
    element.removeEventListener("pointerdown", down);
    element.removeEventListener("pointermove", move);
    element.removeEventListener("pointerup", up);
    element.removeEventListener("pointercancel", up);
    element.removeEventListener("wheel", wheel);
    element.removeEventListener("contextmenu", menu);
  };
}
