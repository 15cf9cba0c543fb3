import type { Veneers } from "../../api/client";

export const THIRDS = ["incisal", "middle", "cervical"];
export type Unlike = Veneers["unlike"][number];

/** One difference between two teeth that mirror each other, as a sentence; the second is the one that has less. */
export function unlikeWords(row: Unlike): string {
  const [less, more] = row.difference_mm < 0 ? [row.right, row.left] : [row.left, row.right];
  const mm = `${Math.abs(row.difference_mm).toFixed(2)} mm`;
  const third = row.zone ? `${row.zone.split("/")[1]} third` : "";
  if (row.what === "thickness") return `${third}: ${less} has ${mm} less room than ${more}`;
  if (row.what === "tooth-removed") return `${third}: ${mm} less was taken off ${less} than off ${more}`;
  if (row.what === "room-at-edge") return `edge: ${less} has ${mm} less room than ${more}`;
  if (row.what === "longer") return `edge: ${less} is lengthened by ${mm} less than ${more}`;
  return `edge: ${more} is to end ${mm} shorter than ${less}`; // levels count down from the row's highest edge
}

/** Of a row's edges, in the drawing's own lengths: how far below the highest line the edge before, the planned and the
 *  cut one lie where all edges before are laid on one line. */
export function edgesDrawn(
  row: Veneers,
  mmHigh: number,
): { before: number | null; planned: number; cut: number | null }[] {
  const highest = Math.max(0, ...row.teeth.map((tooth) => tooth.longer_mm ?? 0));
  return row.teeth.map(({ longer_mm, room_mm }) => {
    const planned = (highest - (longer_mm ?? 0)) * mmHigh;
    return {
      before: longer_mm === null ? null : highest * mmHigh,
      planned,
      cut: room_mm === null ? null : planned + room_mm * mmHigh,
    };
  });
}
