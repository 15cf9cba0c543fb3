const WALKED = "walked";

/** What is shown over the page to help: the keys and parts of a screen, or the first walk. */
class Help {
  open = $state(false);
  /** Step of the first walk, null while it is not walked. */
  step = $state<number | null>(null);
  walked = $state(localStorage.getItem(WALKED) === "yes");

  toggle() {
    this.open = !this.open;
    if (this.open) this.step = null;
  }

  begin() {
    this.open = false;
    this.step = 0;
  }

  leave() {
    this.step = null;
    this.walked = true;
    localStorage.setItem(WALKED, "yes");
  }
}

export const help = new Help();
