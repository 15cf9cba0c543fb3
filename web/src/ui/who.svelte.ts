import { api, whenSignedOut, type Person } from "../api/client";

/** Who sits here, where the server asks; on this machine alone nobody signs in. */
class Who {
  /** Null until the server has said whether it asks. */
  asked = $state<boolean | null>(null);
  person = $state<Person | null>(null);

  /** Whether the person sees own cases alone, and makes none. */
  readonly limited = $derived(this.person?.role === "student" || this.person?.role === "laboratory");
  readonly outside = $derived(this.asked === true && this.person === null);

  constructor() {
    whenSignedOut(() => (this.person = null));
  }

  async load() {
    const here = await api.whoIsHere();
    this.asked = here.signing_in;
    this.person = here.person;
  }

  async signIn(name: string, password: string) {
    this.person = (await api.signIn(name, password)).person;
  }

  async signOut(everywhere = false) {
    await (everywhere ? api.signOutEverywhere() : api.signOut());
    this.person = null;
  }
}

export const who = new Who();
