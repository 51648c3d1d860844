import {
  RightsRefused,
  type ActEnded,
  type RaisedBack,
  type RaisedOrder,
  type RaisedRights,
  type RaisedService,
  type RaisedSignIn,
  type ScriptEnded,
} from '@porch/host';
import type { Readable, Writable } from 'node:stream';
import { hearLines } from '../json-lines.ts';
import { FromPart, sayLine, type ToPart } from './lines.ts';

/** The part that holds rights ends itself after two and a half seconds without a sign of life. */
const HERE_MS = 400;
/** Once it is told to go it has so long; then it is said that something may go on. */
const GONE_MS = 4_000;
const NOT_ANSWERING = 'what holds administrator rights there does not answer';

/** Something that was ordered, until it is over. */
interface Ordered {
  /** What it began may go on without the part. */
  readonly isRun: boolean;
  print(text: string): void;
  end(line: Ended): void;
  /** The part went without a word of it. */
  cut(mayGoOn: boolean): void;
  refuse(why: string): void;
}
type Ended = FromPart & { says: 'ended' | 'acted' | 'will-sign-in' };

/** Doorstep's end of the line to the part that holds administrator rights. */
export class HeldPart implements RaisedRights {
  readonly gone: Promise<{ readonly mayGoOn: boolean }>;
  readonly #to: Writable;
  readonly #ordered = new Map<string, Ordered>();
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
  begun(answer: (nonce: string) => ToPart | undefined = () => undefined): Promise<void> {
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

  async run(
    { runId, text, values, ...signed }: RaisedOrder,
    may: () => boolean,
    print: (text: string) => void,
    signal: AbortSignal,
  ): Promise<ScriptEnded> {
    const order: ToPart = { do: 'run', runId, text, values: { ...values }, ...given(signed) };
    return scriptEnded(await this.#order(runId, order, { may, print, signal }));
  }

  async service(
    { actId, act, target, ...signed }: RaisedService,
    may: () => boolean,
    signal: AbortSignal,
  ): Promise<ActEnded> {
    const order: ToPart = { do: 'service', actId, act, target, ...given(signed) };
    const ended = await this.#order(actId, order, { may, print: () => undefined, signal });
    return ended.says === 'acted' ? { outcome: ended.outcome, says: ended.about } : { outcome: 'broken-off', says: '' };
  }

  async putBack(
    { orderId, back, ...signed }: RaisedBack,
    may: () => boolean,
    signal: AbortSignal,
  ): Promise<ScriptEnded> {
    const order: ToPart = { do: 'put-back', orderId, back, ...given(signed) };
    return scriptEnded(await this.#order(orderId, order, { may, print: () => undefined, signal }));
  }

  async signInOnce(
    { orderId, account, ...signed }: RaisedSignIn,
    may: () => boolean,
    signal: AbortSignal,
  ): Promise<void> {
    const order: ToPart = { do: 'sign-in', orderId, account, ...given(signed) };
    const ended = await this.#order(orderId, order, { may, print: () => undefined, signal });
    if (ended.says !== 'will-sign-in') throw new RightsRefused(NOT_ANSWERING);
  }

  lower(): void {
    if (this.#isGone) return;
    clearInterval(this.#alive);
    // It ends what runs, then itself.
    this.#to.end();
    this.#late ??= setTimeout(() => this.#went(true), GONE_MS);
  }

  #order(
    id: string,
    order: ToPart,
    { may, print, signal }: { may(): boolean; print(text: string): void; readonly signal: AbortSignal },
  ): Promise<Ended> {
    const cut = (mayGoOn: boolean): Ended => ({ says: 'ended', runId: id, mayGoOn });
    if (this.#isGone || !may()) return Promise.resolve(cut(false));
    return new Promise((resolve, reject) => {
      const stop = () => this.#say({ do: 'stop', runId: id });
      const over = () => {
        signal.removeEventListener('abort', stop);
        this.#ordered.delete(id);
      };
      this.#ordered.set(id, {
        isRun: order.do === 'run' || order.do === 'put-back',
        print,
        end: (line) => (over(), resolve(line)),
        cut: (mayGoOn) => (over(), resolve(cut(mayGoOn))),
        refuse: (why) => (over(), reject(new RightsRefused(why))),
      });
      signal.addEventListener('abort', stop, { once: true });
      this.#say(order);
      if (signal.aborted) stop();
    });
  }

  /** Only from now on: before, what is said here may be read as a password by what starts it. */
  #isReady(): void {
    this.#alive ??= setInterval(() => this.#say({ do: 'here' }), HERE_MS);
    this.#ask?.ready();
  }

  #say(line: ToPart): void {
    if (!this.#isGone && this.#to.writable) sayLine(this.#to, line);
  }

  #take(line: FromPart): void {
    if (line.says === 'who') this.#ask?.who(line.nonce);
    else if (line.says === 'ready') this.#isReady();
    else if (line.says === 'no') this.#ask?.no(line.why);
    else if (line.says === 'printed') this.#ordered.get(line.runId)?.print(line.text);
    else if (line.says === 'refused') this.#ordered.get(line.runId)?.refuse(line.why);
    else this.#ordered.get(orderOf(line))?.end(line);
  }

  /** `isLate`: it was told to go, and has not. */
  #went(isLate = false): void {
    if (this.#isGone) return;
    this.#isGone = true;
    clearInterval(this.#alive);
    clearTimeout(this.#late);
    this.#ask?.no(NOT_ANSWERING);
    // What ran when it went was ended by its guard, where the computer has one; nobody here saw it end.
    const mayGoOn = isLate || [...this.#ordered.values()].some(({ isRun }) => isRun);
    for (const one of [...this.#ordered.values()]) one.cut(mayGoOn);
    this.#to.destroy();
    this.#tellGone({ mayGoOn });
  }
}

const scriptEnded = (ended: Ended): ScriptEnded =>
  ended.says === 'ended' ? { code: ended.code, mayGoOn: ended.mayGoOn } : { code: undefined, mayGoOn: false };
/** Which order it is about. */
const orderOf = (line: Ended): string =>
  line.says === 'ended' ? line.runId : line.says === 'acted' ? line.actId : line.orderId;

/** Without what is undefined: no line has it. */
function given<T extends object>(signed: T): { [K in keyof T]?: Exclude<T[K], undefined> } {
  return Object.fromEntries(Object.entries(signed).filter(([, one]) => one !== undefined)) as {
    [K in keyof T]?: Exclude<T[K], undefined>;
  };
}
