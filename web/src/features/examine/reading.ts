import type { Lens } from "../../api/client";
import type { Reading } from "../../sheet/worn";

/** What stands under the pointer, in the lens's own words; "" where the lens says nothing. */
export function readingText(lens: Lens | null, at: Reading | null, U: number, allowed: number): string {
  if (!lens || !at || !lens.reads) return "";
  if (at.unseen) return "never seen by the earlier scan";
  if (at.value === null) return "";
  const mm = (value: number) => value.toFixed(2);
  const said = lens.reads
    .replace("{value}", mm(at.value))
    .replace("{depth}", mm(Math.max(0, -at.value)))
    .replace("{low}", at.low === null ? "nothing" : mm(at.low))
    .replace("{high}", at.high === null ? "no limit" : mm(at.high))
    .replace("{allowed}", mm(allowed))
    .replace("{U}", mm(U));
  return `${said} mm`;
}
