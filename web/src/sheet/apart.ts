/** A label on the sheet: where it stands, px, and how near it is to the eye, mm. */
export interface Label {
  x: number;
  y: number;
  towards: number;
}

/** The labels that do not lie on one another: of two, the one nearer to the eye stays; `first` stays in any case. */
export function apart<T extends Label>(
  labels: T[],
  wide: number,
  high: number,
  first?: (label: T) => boolean,
): T[] {
  const rank = (label: T) => (first?.(label) ? Infinity : label.towards);
  const kept: T[] = [];
  for (const label of [...labels].sort((a, b) => rank(b) - rank(a)))
    if (!kept.some((k) => Math.abs(k.x - label.x) < wide && Math.abs(k.y - label.y) < high)) kept.push(label);
  return labels.filter((label) => kept.includes(label));
}
