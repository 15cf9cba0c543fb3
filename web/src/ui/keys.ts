/** The key pressed, in lower case; null where it belongs to a field, a list or the browser. */
export function plainKey(event: KeyboardEvent): string | null {
  const element = event.target as HTMLElement;
  if (event.ctrlKey || event.metaKey || event.altKey) return null;
  if (element.closest("input, textarea, select, [role=listbox]")) return null;
  return event.key.toLowerCase();
}
