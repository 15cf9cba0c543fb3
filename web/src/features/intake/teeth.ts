/** Permanent teeth in the order they stand before the operator, by quadrant. */
export const ROWS = [
  ["18", "17", "16", "15", "14", "13", "12", "11", "21", "22", "23", "24", "25", "26", "27", "28"],
  ["48", "47", "46", "45", "44", "43", "42", "41", "31", "32", "33", "34", "35", "36", "37", "38"],
];

/** A child's first teeth, the same way round. */
export const PRIMARY_ROWS = [
  ["55", "54", "53", "52", "51", "61", "62", "63", "64", "65"],
  ["85", "84", "83", "82", "81", "71", "72", "73", "74", "75"],
];

export const ROLES = [
  { value: "prep", label: "Preparation", hint: "the tooth as it is cut now" },
  { value: "preop", label: "Before cutting", hint: "the same jaw before the preparation" },
  { value: "opposing", label: "Opposing teeth", hint: "the other jaw, in the bite" },
  {
    value: "opposing_before",
    label: "Opposing, bite before",
    hint: "the bite as it was recorded before cutting",
  },
  { value: "mockup", label: "Mock-up or wax-up", hint: "the planned outer shape" },
];

export const UNITS = [
  { value: "mm", label: "millimetres" },
  { value: "cm", label: "centimetres" },
  { value: "in", label: "inches" },
  { value: "m", label: "metres" },
];

/** A scan's facts as one plain line. */
export function plainFacts(facts: Record<string, unknown>): string {
  const size = (facts.size_mm as number[]).map((v) => v.toFixed(0)).join(" × ");
  const holes = Number(facts.holes);
  const pieces = Number(facts.pieces);
  const parts = [
    String(facts.format),
    `${Number(facts.triangles).toLocaleString("en")} triangles`,
    `${size} mm`,
    `edges ${Number(facts.edge_median_mm).toFixed(2)} mm`,
    holes ? `${holes} hole${holes === 1 ? "" : "s"}` : "no holes",
    `${pieces} piece${pieces === 1 ? "" : "s"}`,
    `noise about ${Number(facts.noise_um).toFixed(0)} µm`,
  ];
  if (facts.colour) parts.push("with colour");
  return parts.join(" · ");
}
