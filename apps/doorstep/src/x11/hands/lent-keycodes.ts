import type { XConnection } from '../server/connection.ts';
import type { KeyPlaces, Place } from './key-places.ts';
import { LENT_PROPERTY } from './left-behind.ts';

/** Atom numbers fixed by the protocol. */
const ATOM_INTEGER = 19;
/** A keycode that was lent keeps its meaning this long after its last use: programs read the map late. */
const LENT_MS = 300;

interface Loan {
  readonly keycode: number;
  readonly keysym: number;
  usedAtMs: number;
}

/** Keycodes that mean nothing on this keyboard, and for a while what it lacks. */
export class LentKeycodes {
  readonly #x: XConnection;
  readonly #atom: number;
  #loans: Loan[] = [];
  #ownChanges = 0;

  private constructor(x: XConnection, atom: number) {
    this.#x = x;
    this.#atom = atom;
  }
  static async on(x: XConnection): Promise<LentKeycodes> {
    return new LentKeycodes(x, await x.atom(LENT_PROPERTY));
  }

  get keycodes(): number[] {
    return this.#loans.map(({ keycode }) => keycode);
  }
  /** Asked once for each change of the map: whether it was one of these. */
  wasOurs(): boolean {
    if (this.#ownChanges === 0) return false;
    this.#ownChanges--;
    return true;
  }

  placeOf(keysym: number): Place | undefined {
    const loan = this.#loans.find((l) => l.keysym === keysym);
    if (!loan) return undefined;
    loan.usedAtMs = performance.now();
    return { keycode: loan.keycode, isShifted: false, isThird: false };
  }

  /** The map was made anew by somebody else: what was lent may mean nothing any longer, or something of theirs. */
  forgetLost(keysymsOf: (keycode: number) => readonly number[]): void {
    this.#loans = this.#loans.filter(({ keycode, keysym }) => keysymsOf(keycode)[0] === keysym);
  }

  /** Gives each of them a keycode, on every level and in every group, as long as that may be. */
  async lend(keysyms: readonly number[], { spares, perKeycode }: KeyPlaces, may: () => boolean): Promise<void> {
    const { client, root } = this.#x;
    for (const keysym of keysyms) {
      const keycode = await this.#free(spares);
      if (keycode === undefined || !may()) return;
      this.#loans.push({ keycode, keysym, usedAtMs: performance.now() });
      this.#ownChanges++;
      client.ChangeKeyboardMapping(keycode, perKeycode, new Array<number>(perKeycode).fill(keysym));
    }
    client.ChangeProperty(0, root, this.#atom, ATOM_INTEGER, 8, Buffer.from(this.keycodes));
    await this.#x.flush();
  }

  /** A spare keycode, or the one not used for longest once no program can still be reading its old meaning. */
  async #free(spares: readonly number[]): Promise<number | undefined> {
    const free = spares.find((keycode) => !this.#loans.some((l) => l.keycode === keycode));
    if (free !== undefined) return free;
    const oldest = [...this.#loans].sort((a, b) => a.usedAtMs - b.usedAtMs)[0];
    if (!oldest) return undefined;
    const waitMs = oldest.usedAtMs + LENT_MS - performance.now();
    if (waitMs > 0) await new Promise((resolve) => setTimeout(resolve, waitMs));
    this.#loans = this.#loans.filter((l) => l !== oldest);
    return oldest.keycode;
  }
}
