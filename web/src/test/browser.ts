/** The little of a browser that the state classes touch, for tests without one. */
const address = { pathname: "/", search: "" };
const put = (_: unknown, __: string, to: string) => {
  const [path, query] = to.split("?");
  Object.assign(address, { pathname: path || address.pathname, search: query ? `?${query}` : "" });
};
Object.assign(globalThis, {
  location: address,
  history: { pushState: put, replaceState: put },
  window: { addEventListener: () => {}, setInterval, clearInterval, setTimeout, clearTimeout },
});
