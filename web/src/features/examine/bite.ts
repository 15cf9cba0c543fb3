import type { Contact, Movement } from "../../api/client";

/** How a contact is told: its sign on the sheet, and in words. */
export const CHANGES: Record<Contact["change"], string> = {
  kept: "as before",
  new: "new",
  lost: "lost",
  heavier: "heavier",
  lighter: "lighter",
  cut: "before cutting",
  alone: "now",
};
const [LEAST_PX, MOST_PX, LIKE_MM2] = [10, 26, 4]; // of a mark; an area of so much makes the greatest

/** Across a mark, in dots of the screen: by the contact's area, so that heavy ones are seen first. */
export function sizeOf(contact: Contact): number {
  const area = Math.max(contact.after?.mm2 ?? 0, contact.before?.mm2 ?? 0);
  return LEAST_PX + (MOST_PX - LEAST_PX) * Math.min(Math.sqrt(area / LIKE_MM2), 1);
}

/** About which tooth, as it is called on the sheet. */
export const toothOf = (contact: Contact): string =>
  contact.own ? "this tooth" : contact.tooth === null ? "another tooth" : `about ${contact.tooth}`;

/** Contacts of the other teeth in the order of their numbers, what changed first. */
export function listed(contacts: Contact[]): Contact[] {
  const calm = (c: Contact) => (c.change === "kept" || c.change === "alone" ? 1 : 0);
  return contacts
    .filter((c) => !c.own)
    .sort((a, b) => calm(a) - calm(b) || (a.tooth ?? "").localeCompare(b.tooth ?? ""));
}

/** One line over the list: how many there are, and what is otherwise than before cutting. */
export function inShort(contacts: Contact[]): string {
  const others = contacts.filter((c) => !c.own && c.change !== "lost");
  const many = `${others.length} ${others.length === 1 ? "contact" : "contacts"} on the other teeth`;
  const changed = (["new", "lost", "heavier", "lighter"] as const).flatMap((how) => {
    const count = contacts.filter((c) => !c.own && c.change === how).length;
    return count ? [`${count} ${how}`] : [];
  });
  if (changed.length) return `${many}: ${changed.join(", ")}`;
  return contacts.some((c) => c.change === "kept") ? `${many}, as before cutting` : many;
}

/** Where the opposing teeth would close deepest, as a 4 x 4 matrix: aside by what is told, and down by as much. */
export function closedPose(shift: { by: number[]; deeper_mm: number }, occlusal: number[]): number[][] {
  const move = [0, 1, 2].map((k) => shift.by[k]! - shift.deeper_mm * occlusal[k]!);
  return [
    [1, 0, 0, move[0]!],
    [0, 1, 0, move[1]!],
    [0, 0, 1, move[2]!],
    [0, 0, 0, 1],
  ];
}

/** Which teeth hold the jaws apart in a movement, with the earlier tooth in place or without it. */
export function guidesOf(movement: Movement, before: boolean): string[] {
  const names = movement.guides
    .filter((g) => g.before === before)
    .map((g) => (g.own ? "this tooth" : (g.tooth ?? "another tooth")));
  return [...new Set(names)].sort();
}

/** Who guides, in words; empty where no teeth do. */
export function whoGuides(movement: Movement): string {
  const [before, after] = [guidesOf(movement, true), guidesOf(movement, false)];
  if (!before.length) return "";
  const list = (names: string[]) => names.join(", ");
  if (!before.includes("this tooth") || !after.length) return `guided by ${list(before)}`;
  return `guided by ${list(before)}; without this tooth by ${list(after)}`;
}
