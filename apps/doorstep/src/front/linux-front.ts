import type { FrontPort } from '@porch/host';
import { Logind } from '../restart/logind.ts';

/**
 * Whether this desktop is the one in front, as systemd's logind says (org.freedesktop.login1(5), Active). Of several people
 * who are signed in one sees their own; the others' desktops go on behind it.
 */
export class LinuxFront implements FrontPort {
  readonly #logind: Logind;
  readonly #path: string;
  readonly #warn: (why: string, words: string) => void;
  readonly #listeners = new Set<() => void>();
  #isInFront = true;
  #work: Promise<void> = Promise.resolve();

  private constructor(logind: Logind, path: string, warn: (why: string, words: string) => void) {
    this.#logind = logind;
    this.#path = path;
    this.#warn = warn;
  }

  /** Throws where there is no logind, or this program is in no session of it: then nobody can know. */
  static async open(warn: (why: string, words: string) => void): Promise<LinuxFront> {
    const logind = await Logind.open();
    try {
      const front = new LinuxFront(logind, await logind.ownSession(process.env['XDG_SESSION_ID']), warn);
      await logind.onSessionChanged(front.#path, () => front.#look());
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
      .then(() => this.#logind.isActive(this.#path))
      .then((isInFront) => {
        if (isInFront === this.#isInFront) return;
        this.#isInFront = isInFront;
        for (const listener of this.#listeners) listener();
      })
      .catch((error: unknown) => this.#warn(String(error), 'whether this desktop is in front is not known any longer'));
  }
}
