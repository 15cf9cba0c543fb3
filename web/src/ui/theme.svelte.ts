/** Light by default; dim for the surgery. Kept on this machine. */
class Theme {
  dim = $state(localStorage.getItem("theme") === "dim");

  constructor() {
    this.#apply();
  }

  toggle() {
    this.dim = !this.dim;
    localStorage.setItem("theme", this.dim ? "dim" : "light");
    this.#apply();
  }

  get ground() {
    return this.dim ? "#1b2120" : "#f3f0e7";
  }

  #apply() {
    document.documentElement.dataset.theme = this.dim ? "dim" : "light";
  }
}

export const theme = new Theme();
