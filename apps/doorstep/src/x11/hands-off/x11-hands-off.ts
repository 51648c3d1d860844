import { spawn, type ChildProcess } from 'node:child_process';
import { createInterface } from 'node:readline';
import type { Resting } from '@porch/core';
import type { HandsOffPort, Rest, RestingListener, RestingWords } from '@porch/host';
import { jsonOrUndefined } from '../../json-or-undefined.ts';
import { ownCommand } from '../../release/self.ts';
import { GO, RestSays, TICK, TICK_MS, type RestBegin } from './rest-lines.ts';

/** One that has not gone by then is ended by force. */
const END_MS = 1_000;

/** Takes pictures of what lies beneath this window from now on; the returned function ends that. */
export type LookBeneath = (window: number) => Promise<() => Promise<void>>;

/** Starts a process for each thing that rests, keeps it alive, and ends it. */
export function x11HandsOff(display: string, canCover: boolean, lookBeneath: LookBeneath): HandsOffPort {
  return {
    canCover,
    begin: (what, words, forMs, on) => new RestProcess(display, { what, words, forMs }, on, lookBeneath),
  };
}

class RestProcess implements Rest {
  readonly #child: ChildProcess;
  readonly #on: RestingListener;
  readonly #lookBeneath: LookBeneath;
  readonly #ticks: ReturnType<typeof setInterval>;
  readonly #gone: Promise<void>;
  #isOver = false;
  #picture: Promise<() => Promise<void>> | undefined;

  constructor(
    display: string,
    begin: { what: Resting; words: RestingWords; forMs: number },
    on: RestingListener,
    lookBeneath: LookBeneath,
  ) {
    this.#on = on;
    this.#lookBeneath = lookBeneath;
    const [command = '', ...args] = ownCommand();
    const child = spawn(command, [...args, 'rest', '--display', display], {
      stdio: ['pipe', 'pipe', 'inherit'],
      // Not of our group: a Ctrl-C is ours to understand.
      detached: true,
    });
    this.#child = child;
    child.stdin.on('error', () => undefined); // It went; `exit` says so, and does the work.
    child.stdin.write(`${JSON.stringify(begin satisfies RestBegin)}\n`);
    this.#ticks = setInterval(() => child.stdin.write(`${TICK}\n`), TICK_MS);
    createInterface({ input: child.stdout }).on('line', (line) => this.#follow(line));
    this.#gone = new Promise((resolve) => {
      child.once('exit', (code, signal) => {
        resolve();
        this.#finish(() => this.#on.over(`its process went (${signal ?? code})`));
      });
      child.once('error', (error) => {
        resolve();
        this.#finish(() => this.#on.over(error));
      });
    });
  }

  async end(): Promise<void> {
    this.#finish(() => undefined);
    this.#child.stdin?.end();
    const late = setTimeout(() => this.#child.kill('SIGKILL'), END_MS);
    await this.#gone;
    clearTimeout(late);
    const lookAsEver = await this.#picture?.catch(() => undefined); // It never began.
    await lookAsEver?.();
  }

  #follow(line: string): void {
    const said = RestSays.safeParse(jsonOrUndefined(line)).data;
    switch (said?.says) {
      case undefined:
        this.#finish(() => this.#on.over('its process says what nobody understands'));
        break;
      case 'ready':
        this.#go(said.window).catch((error: unknown) => this.#finish(() => this.#on.over(error)));
        break;
      case 'in force':
        if (!this.#isOver) this.#on.inForce();
        break;
      case 'lifted':
        this.#finish(() => this.#on.lifted(said.by));
        break;
      case 'failed':
        this.#finish(() => this.#on.over(said.why));
        break;
    }
  }

  /** The picture first: whoever works here goes on seeing. */
  async #go(window: number): Promise<void> {
    if (window !== 0) await (this.#picture = this.#lookBeneath(window));
    if (!this.#isOver) this.#child.stdin?.write(`${GO}\n`);
  }

  /** Said once, whatever comes after it. */
  #finish(tell: () => void): void {
    if (this.#isOver) return;
    this.#isOver = true;
    clearInterval(this.#ticks);
    tell();
  }
}
