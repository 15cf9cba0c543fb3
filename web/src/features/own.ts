/** What ships is copied under a title of its own; one's own is gone on with. */
export function ownCopy<T extends { id: string; version: number; title: string; own: boolean }>(one: T): T {
  return one.own ? one : { ...one, id: "", version: 0, title: `${one.title}, ours`, own: true };
}
