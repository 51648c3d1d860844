import { spawn, type ChildProcess } from 'node:child_process';
import { ownCommand } from './release/self.ts';
import { DisplayGone } from './x11/server/connection.ts';

/** A watchdog that goes again and again is no watchdog: after so many in a row nothing is pressed any longer. */
const MAX_DEATHS = 5;
/** One that lived this long has proven itself. */
const PROVEN_MS = 10_000;
/** One that does not say by then that it watches never will. */
const START_MS = 30_000;

/**
 * Keeps a second process that lets go of everything, and ends what runs for the desk, when this one dies, and notices at once when it dies itself: then all
 * is let go, and another is started, which hears what is down. While there is none, nothing new may be pressed.
 */
export class WatchdogKeeper {
  readonly #display: string;
  readonly #down = new Set<string>();
  #child: ChildProcess | undefined;
  #isThere = false;
  #isClosed = false;
  #isLast = false;
  #deaths = 0;
  #bornAtMs = 0;

  /** Hears that it died, in the same moment, so that what is pressed can be let go. */
  onTrouble: (what: 'gone' | 'cannot be kept') => void = () => undefined;

  constructor(display: string) {
    this.#display = display;
  }

  /** Whether somebody would let go for us, if we died now. */
  get isThere(): boolean {
    return this.#isThere;
  }
  get pid(): number | undefined {
    return this.#child?.pid;
  }

  /** Told before it happens: what is pressed, what runs, and which printers are in the list. */
  report(what: 'key' | 'button' | 'run' | 'printer', number: number | string, isDown: boolean): void {
    const name = `${what} ${number}`;
    if (isDown) this.#down.add(name);
    else this.#down.delete(name);
    this.#tell(`${name} ${isDown ? 'down' : 'up'}`);
  }

  /** Resolves once it watches. Throws DisplayGone when it cannot, or does not say so in time. */
  start(): Promise<void> {
    const [command = '', ...args] = ownCommand();
    const child = spawn(command, [...args, 'watchdog', '--display', this.#display], {
      stdio: ['pipe', 'pipe', 'inherit'],
      detached: true,
    });
    this.#child = child;
    this.#bornAtMs = performance.now();
    child.stdin.on('error', () => undefined); // It went; `exit` says so, and does the work.
    return new Promise<void>((resolve, reject) => {
      const late = setTimeout(() => {
        child.kill('SIGKILL');
        reject(new DisplayGone('the watchdog did not start in time'));
      }, START_MS);
      child.stdout.once('data', () => {
        clearTimeout(late);
        // Only now: until it is there, waiting for it is what keeps this process alive.
        child.unref();
        child.stdout.destroy();
        this.#isThere = true;
        for (const name of this.#down) this.#tell(`${name} down`);
        resolve();
      });
      child.once('error', (cause) => reject(new DisplayGone('the watchdog could not start', { cause })));
      child.once('exit', () => {
        clearTimeout(late);
        reject(new DisplayGone('the watchdog could not start'));
        this.#died(child);
      });
    });
  }

  /** This program ends soon, with its computer maybe: none that dies now is followed by another. */
  noMore(): void {
    this.#isLast = true;
  }

  close(): void {
    this.#isClosed = true;
    this.#child?.stdin?.end();
  }

  #tell(line: string): void {
    if (this.#isThere) this.#child?.stdin?.write(`${line}\n`);
  }

  #died(child: ChildProcess): void {
    if (this.#child !== child || !this.#isThere || this.#isClosed) return;
    this.#isThere = false;
    this.onTrouble('gone');
    this.#deaths = performance.now() - this.#bornAtMs > PROVEN_MS ? 1 : this.#deaths + 1;
    if (this.#isLast || this.#deaths > MAX_DEATHS) {
      this.onTrouble('cannot be kept');
      return;
    }
    this.start().catch(() => this.onTrouble('cannot be kept'));
  }
}
