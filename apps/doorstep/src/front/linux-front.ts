import type { FrontPort } from '@porch/host';
import { Logind, type SignedIn } from '../system/logind.ts';
import type { Warn } from '../warn.ts';

/**
 * Whether this desktop is the one in front, as systemd's logind says (org.freedesktop.login1(5), Active). Of several people
 * who are signed in one sees their own; the others' desktops go on behind it.
 */
export class LinuxFront implements FrontPort {
  readonly #logind: Logind;
  readonly #own: SignedIn;
  readonly #warn: Warn;
  readonly #listeners = new Set<() => void>();
  #isInFront = true;
  #work: Promise<void> = Promise.resolve();

  private constructor(logind: Logind, own: SignedIn, warn: Warn) {
    this.#logind = logind;
    this.#own = own;
    this.#warn = warn;
  }

  /** Throws where there is no logind, or this program is in no session of it: then nobody can know. */
  static async open(warn: Warn): Promise<LinuxFront> {
    const logind = await Logind.open();
    try {
      const own = await logind.ownSession();
      if (!own) throw new Error('this program is in no session of the computer');
      const front = new LinuxFront(logind, own, warn);
      await logind.onSessionChanged(own, () => front.#look());
      front.#look();
      await front.#work;
      return front;
    } catch (error) {
      logind.close();
      throw error;
    }
  }

  get isInFront(): boolean {
    return this.#isInFront;
  }
  onChanged(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }
  close(): void {
    this.#listeners.clear();
    this.#logind.close();
  }

  #look(): void {
    this.#work = this.#work
      .then(() => this.#logind.isActive(this.#own))
      .then((isInFront) => {
        if (isInFront === this.#isInFront) return;
        this.#isInFront = isInFront;
        for (const listener of this.#listeners) listener();
      })
      .catch((error: unknown) => this.#warn(String(error), 'whether this desktop is in front is not known any longer'));
  }
}
