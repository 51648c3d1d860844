import {
  RightsRefused,
  type ActEnded,
  type RaisedOrder,
  type RaisedRights,
  type RaisedService,
  type ScriptEnded,
} from '@porch/host';
import type { Readable, Writable } from 'node:stream';
import { FromPart, hearLines, sayLine } from './lines.ts';

/** The part that holds rights ends itself after two and a half seconds without a sign of life. */
const HERE_MS = 400;
/** Once it is told to go it has so long; then it is said that something may go on. */
const GONE_MS = 4_000;
const NOT_ANSWERING = 'what holds administrator rights there does not answer';

interface OneRun {
  print(text: string): void;
  end(ended: ScriptEnded): void;
  refuse(why: string): void;
}

interface OneAct {
  end(ended: ActEnded): void;
  refuse(why: string): void;
}

/** Doorstep's end of the line to the part that holds administrator rights. */
export class HeldPart implements RaisedRights {
  readonly gone: Promise<{ readonly mayGoOn: boolean }>;
  readonly #to: Writable;
  readonly #runs = new Map<string, OneRun>();
  readonly #acts = new Map<string, OneAct>();
  #alive: ReturnType<typeof setInterval> | undefined;
  #isGone = false;
  #ask: { who(nonce: string): void; ready(): void; no(why: string): void } | undefined;
  #late: ReturnType<typeof setTimeout> | undefined;
  #tellGone: (how: { mayGoOn: boolean }) => void = () => undefined;

  constructor(to: Writable, from: Readable) {
    this.#to = to;
    this.gone = new Promise((resolve) => (this.#tellGone = resolve));
    to.on('error', () => undefined); // It went: its other half says so.
    hearLines(
      from,
      FromPart,
      (line) => this.#take(line),
      () => this.#went(),
    );
  }

  /** Resolves once it takes orders; `answer` is asked where it wants to know by whose leave. Rejects with RightsRefused. */
  begun(answer: (nonce: string) => Parameters<typeof sayLine>[1] | undefined = () => undefined): Promise<void> {
    return new Promise((resolve, reject) => {
      const no = (why: string) => reject(new RightsRefused(why));
      this.#ask = {
        who: (nonce) => {
          const line = answer(nonce);
          if (line) sayLine(this.#to, line);
          else no(NOT_ANSWERING);
        },
        ready: resolve,
        no,
      };
    });
  }

  run(
    order: RaisedOrder,
    may: () => boolean,
    print: (text: string) => void,
    signal: AbortSignal,
  ): Promise<ScriptEnded> {
    const { runId, text, values, warrant, signature } = order;
    if (this.#isGone || !may()) return Promise.resolve({ code: undefined, mayGoOn: false });
    return new Promise((resolve, reject) => {
      const stop = () => this.#say({ do: 'stop', runId });
      const over = () => {
        signal.removeEventListener('abort', stop);
        this.#runs.delete(runId);
      };
      this.#runs.set(runId, {
        print,
        end: (ended) => (over(), resolve(ended)),
        refuse: (why) => (over(), reject(new RightsRefused(why))),
      });
      signal.addEventListener('abort', stop, { once: true });
      this.#say({
        ...{ do: 'run', runId, text, values: { ...values } },
        ...(warrant === undefined ? {} : { warrant }),
        ...(signature === undefined ? {} : { signature }),
      });
      if (signal.aborted) stop();
    });
  }

  service(
    { actId, act, target, signature }: RaisedService,
    may: () => boolean,
    signal: AbortSignal,
  ): Promise<ActEnded> {
    if (this.#isGone || !may()) return Promise.resolve({ outcome: 'broken-off', says: '' });
    return new Promise((resolve, reject) => {
      const stop = () => this.#say({ do: 'stop', runId: actId });
      const over = () => {
        signal.removeEventListener('abort', stop);
        this.#acts.delete(actId);
      };
      this.#acts.set(actId, {
        end: (ended) => (over(), resolve(ended)),
        refuse: (why) => (over(), reject(new RightsRefused(why))),
      });
      signal.addEventListener('abort', stop, { once: true });
      this.#say({ do: 'service', actId, act, target, ...(signature === undefined ? {} : { signature }) });
      if (signal.aborted) stop();
    });
  }

  lower(): void {
    if (this.#isGone) return;
    clearInterval(this.#alive);
    // It ends what runs, then itself.
    this.#to.end();
    this.#late ??= setTimeout(() => this.#went(true), GONE_MS);
  }

  /** Only from now on: before, what is said here may be read as a password by what starts it. */
  #isReady(): void {
    this.#alive ??= setInterval(() => this.#say({ do: 'here' }), HERE_MS);
    this.#ask?.ready();
  }

  #say(line: Parameters<typeof sayLine>[1]): void {
    if (!this.#isGone && this.#to.writable) sayLine(this.#to, line);
  }

  #take(line: FromPart): void {
    if (line.says === 'who') this.#ask?.who(line.nonce);
    else if (line.says === 'ready') this.#isReady();
    else if (line.says === 'no') this.#ask?.no(line.why);
    else if (line.says === 'printed') this.#runs.get(line.runId)?.print(line.text);
    else if (line.says === 'ended') this.#runs.get(line.runId)?.end({ code: line.code, mayGoOn: line.mayGoOn });
    else if (line.says === 'acted') this.#acts.get(line.actId)?.end({ outcome: line.outcome, says: line.about });
    else (this.#runs.get(line.runId) ?? this.#acts.get(line.runId))?.refuse(line.why);
  }

  /** `isLate`: it was told to go, and has not. */
  #went(isLate = false): void {
    if (this.#isGone) return;
    this.#isGone = true;
    clearInterval(this.#alive);
    clearTimeout(this.#late);
    this.#ask?.no(NOT_ANSWERING);
    // What ran when it went was ended by its guard, where the computer has one; nobody here saw it end.
    const mayGoOn = isLate || this.#runs.size > 0;
    for (const run of [...this.#runs.values()]) run.end({ code: undefined, mayGoOn });
    for (const act of [...this.#acts.values()]) act.end({ outcome: 'broken-off', says: '' });
    this.#to.destroy();
    this.#tellGone({ mayGoOn });
  }
}
