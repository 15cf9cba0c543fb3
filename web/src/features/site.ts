import type { Case, Reading, Site } from "../api/client";

/** The tooth that a reading is of; the first one where the address names none. */
export function siteOf(of: Case | null, readingId: string | null): Site | null {
  if (!of) return null;
  return of.sites.find((s) => s.readings.some((r) => r.id === readingId)) ?? of.sites[0] ?? null;
}

/** The same attempt at another tooth of its case. */
export function readingAt(site: Site, number: number): Reading | null {
  return site.readings.find((r) => r.number === number) ?? site.readings[0] ?? null;
}

/** All teeth of a case, as people say them. */
export const teethOf = (of: Case): string => of.sites.map((s) => s.tooth).join(", ");
