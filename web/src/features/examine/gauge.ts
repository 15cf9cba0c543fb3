/** Where things stand on a gauge, as shares 0..1 of its width. */
export interface GaugeMarks {
  min: number | null;
  target: number | null;
  max: number | null;
  value: number;
  from: number;
  to: number;
  label: { low: string; high: string };
}

export interface GaugeInput {
  value: number;
  U: number;
  min: number | null;
  target: number | null;
  max: number | null;
}

export function gaugeMarks({ value, U, min, target, max }: GaugeInput): GaugeMarks {
  const all = [value - U, value + U, min, target, max].filter((x): x is number => x !== null);
  const low = Math.min(0, ...all);
  const high = Math.max(...all) * 1.12 || 1;
  const share = (x: number) => (x - low) / (high - low);
  return {
    min: min === null ? null : share(min),
    target: target === null ? null : share(target),
    max: max === null ? null : share(max),
    value: share(value),
    from: share(value - U),
    to: share(value + U),
    label: { low: low.toFixed(1), high: high.toFixed(1) },
  };
}
