/** The address is the view: `/`, `/new`, `/case/ID?attempt=ID&lens=depth&view=occlusal&finding=2`. */
class Router {
  path = $state(location.pathname);
  query = $state(new URLSearchParams(location.search));

  constructor() {
    window.addEventListener("popstate", () => this.#read());
  }

  #read() {
    this.path = location.pathname;
    this.query = new URLSearchParams(location.search);
  }

  go(address: string) {
    history.pushState(null, "", address);
    this.#read();
  }

  /** Change what the address says of the view without adding a step to go back through. */
  note(values: Record<string, string | null>) {
    // A scratch copy that no view reads.
    // eslint-disable-next-line svelte/prefer-svelte-reactivity
    const query = new URLSearchParams(location.search);
    for (const [key, value] of Object.entries(values)) {
      if (value === null) query.delete(key);
      else query.set(key, value);
    }
    const text = query.toString();
    history.replaceState(null, "", location.pathname + (text ? `?${text}` : ""));
  }
}

export const router = new Router();
