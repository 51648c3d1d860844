import {
  COMMAND_LINE_RISK,
  consentHolderOf,
  isOver,
  namedFolder,
  plainOutput,
  type CommandLineEnd,
  type CommandLineInSession,
} from '@porch/core';
import {
  commandLineChannel,
  commandLineOutputChannel,
  CHUNK_TAG,
  decodeChunk,
  decodeWords,
  MAX_KEYS_CHARACTERS,
  MAX_UNTAKEN_BYTES,
  randomId,
  SAY_TAKEN_BYTES,
  type Chunk,
  type CommandLineMessage,
  type PrintedMessage,
} from '@porch/wire';
import { askLeave } from '../ask-leave.ts';
import { Listeners } from '../listeners.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { OpenAnswers } from '../open-answers.ts';
import { RefusedThere } from '../refused-there.ts';
import { SealedLine } from '../sealed-line.ts';
import { unlessUnreadable } from '../unless-unreadable.ts';

/** What is on the way beyond what may be is no mistake any longer. */
const MOST_UNTAKEN_BYTES = 2 * MAX_UNTAKEN_BYTES;
const OPEN_MS = 30_000;
/** What the ledger says is over gets this long to say the rest itself. */
const REST_MS = 1_500;
/** Whoever lost a piece asks for all of it, and not again at once. */
const ASK_AGAIN_MS = 2_000;

/** The customer's side said no, in its own words. */
export class CommandLineRefusedThere extends RefusedThere {
  /** The device's label asks for the desk's leave: with it the same command line may be opened. */
  readonly isCareful: boolean;
  constructor(why: string, isCareful: boolean) {
    super(why);
    this.isCareful = isCareful;
  }
}

export interface CommandLineAsked {
  readonly lineId: string;
  /** At home where it is empty. */
  readonly folder: string;
  readonly columns: number;
  readonly rows: number;
}
export interface CommandLineOpened {
  readonly lineId: string;
  readonly program: string;
  readonly folder: string;
  /** There not everything that is begun on it can be ended with it for certain. */
  readonly mayGoOn: boolean;
}
export interface CommandLineOver {
  readonly how: CommandLineEnd;
  readonly code: number | undefined;
  readonly mayGoOn: boolean;
}

interface CommandLineEvents {
  /** Bytes for a terminal, which says `took` once it has them. */
  printed: Uint8Array;
  /** A terminal that has none of it is needed now: all that stands there comes next. */
  anew: undefined;
  /** What is pressed does not count just now. */
  rests: string;
  over: CommandLineOver;
}

interface Now extends CommandLineOpened {
  readonly holderId: string | undefined;
  stream: string;
  received: number;
  taken: number;
  saidTaken: number;
}

/** The technician's side of a command line at the customer's computer: one at a time. */
export class TechnicianCommandLine {
  readonly listeners = new Listeners<CommandLineEvents>();
  readonly #connection: LiveConnection;
  readonly #words: SealedLine<CommandLineMessage>;
  readonly #output: SealedLine<PrintedMessage>;
  readonly #answers: OpenAnswers;
  readonly #offs: (() => void)[];
  #now: Now | undefined;
  #endRest: (() => void) | undefined;
  /** Asked for all that stands there, and waiting for it. */
  #endAsking: (() => void) | undefined;

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#words = new SealedLine(connection, commandLineChannel);
    this.#output = new SealedLine(connection, commandLineOutputChannel);
    this.#answers = new OpenAnswers(connection.clock, () => undefined, OPEN_MS);
    const isHolder = (from: { readonly id: string }) => from.id === connection.state.holderId;
    this.#offs = [
      this.#words.listen(({ message }) => this.#hear(message), isHolder),
      this.#output.listenPlain((_from, plain) => this.#take(plain), isHolder),
      connection.on('caughtUp', () => this.#askAgain()),
      connection.on('entry', () => this.#follow()),
    ];
  }

  /** What is open now. */
  get now(): CommandLineOpened | undefined {
    return this.#now;
  }

  newId(): string {
    return randomId(this.#connection.random);
  }

  /** Opens one. Rejects with CommandLineRefusedThere when it is not opened. */
  async open(asked: CommandLineAsked): Promise<CommandLineOpened> {
    await this.#answers.wait<undefined>(asked.lineId, () => this.#send({ type: 'open', ...asked }));
    if (this.#now?.lineId !== asked.lineId) throw new CommandLineRefusedThere('it is not there any longer', false);
    return this.#now;
  }
  /** What this participant had open before this program was begun anew, and still has. */
  get earlierId(): string | undefined {
    const { state, participantId } = this.#connection;
    const isOurs = ([, { byId, standing }]: readonly [string, CommandLineInSession]) =>
      byId === participantId && standing === 'open';
    return this.#now ? undefined : Object.entries(state.slices['command-line']).find(isOurs)?.[0];
  }
  /** Goes on with that: all that stands there comes next. */
  resume(): CommandLineOpened | undefined {
    const lineId = this.earlierId;
    if (lineId === undefined) return this.#now;
    const { state, entries } = this.#connection;
    const told = entries.find(({ event }) => event.type === 'command-line/opened' && event.lineId === lineId)?.event;
    const { program = '', folder = '' } = (told?.type === 'command-line/opened' && told.personal) || {};
    this.#now = {
      ...{ lineId, program: plainOutput(program), folder: plainOutput(folder), mayGoOn: false },
      ...{ holderId: state.holderId, stream: '', received: 0, taken: 0, saidTaken: 0 },
    };
    this.#askAgain();
    return this.#now;
  }
  /** Asks the desk for leave to open it on such a device; `reason`: outside of the hours for it. Throws what the service refuses. */
  askLeave({ lineId, folder }: Pick<CommandLineAsked, 'lineId' | 'folder'>, reason?: string): Promise<void> {
    return askLeave(this.#connection, { actId: lineId, act: COMMAND_LINE_RISK, name: namedFolder(folder) }, reason);
  }

  /** What a terminal sends for what is pressed or pasted. */
  keys(text: string): void {
    const lineId = this.#now?.lineId;
    if (lineId === undefined) return;
    for (const piece of keyPieces(text)) this.#send({ type: 'keys', lineId, text: piece });
  }
  size(columns: number, rows: number): void {
    if (this.#now) this.#send({ type: 'size', lineId: this.#now.lineId, columns, rows });
  }
  /** The terminal has so much more of what was printed. */
  took(bytes: number): void {
    const now = this.#now;
    if (!now) return;
    now.taken = Math.min(now.received, now.taken + bytes);
    if (now.taken - now.saidTaken < SAY_TAKEN_BYTES) return;
    now.saidTaken = now.taken;
    this.#send({ type: 'taken', lineId: now.lineId, stream: now.stream, bytes: now.taken });
  }
  /** Ends it, with all that was begun on it. */
  shut(): void {
    if (this.#now) this.#send({ type: 'close', lineId: this.#now.lineId });
  }

  /** This program has nothing to do with it any longer. It goes on for as long as it is allowed, for whoever resumes it. */
  close(): void {
    this.#endRest?.();
    this.#asked();
    this.#offs.forEach((off) => off());
    this.#answers.close();
    this.listeners.clear();
  }

  #send(message: CommandLineMessage): boolean {
    const holder = consentHolderOf(this.#connection.state);
    return holder !== undefined && this.#words.send(holder.seat, message);
  }

  #hear(message: CommandLineMessage): void {
    if (message.type === 'refused')
      this.#answers.reject(message.id, new CommandLineRefusedThere(message.why, message.isCareful === true));
    else if (message.type === 'rests' && message.lineId === this.#now?.lineId)
      this.listeners.emit('rests', plainOutput(message.why));
  }

  #take(plain: Uint8Array): void {
    if (plain[0] === CHUNK_TAG) {
      const chunk = unlessUnreadable(() => decodeChunk(plain));
      if (chunk) this.#takeChunk(chunk);
      return;
    }
    const message = unlessUnreadable(() => decodeWords(commandLineOutputChannel, plain));
    if (message?.type === 'opened') this.#opened(message);
    else if (message?.type === 'anew') this.#anew(message);
    else if (message?.type === 'ended' && message.lineId === this.#now?.lineId)
      this.#end({ how: message.how, code: message.code, mayGoOn: message.mayGoOn === true });
  }

  #opened({ lineId, stream, program, folder, mayGoOn }: Extract<PrintedMessage, { type: 'opened' }>): void {
    // Nobody waits for it: it was asked for too long ago, or never.
    if (!this.#answers.has(lineId)) {
      this.#send({ type: 'close', lineId });
      return;
    }
    const { holderId } = this.#connection.state;
    this.#now = {
      ...{ lineId, program: plainOutput(program), folder: plainOutput(folder), mayGoOn: mayGoOn === true, holderId },
      ...{ stream, received: 0, taken: 0, saidTaken: 0 },
    };
    this.#answers.resolve(lineId, undefined);
    // The ledger may have come first, with its end.
    this.#follow();
  }
  #anew({ lineId, stream }: Extract<PrintedMessage, { type: 'anew' }>): void {
    if (lineId !== this.#now?.lineId) return;
    Object.assign(this.#now, { stream, received: 0, taken: 0, saidTaken: 0 });
    this.#asked();
    this.listeners.emit('anew', undefined);
  }
  #takeChunk({ id, offset, bytes }: Chunk): void {
    const now = this.#now;
    if (now?.stream !== id || !bytes.length || offset < now.received) return;
    if (offset > now.received) return this.#askAgain();
    now.received += bytes.length;
    // Whoever keeps to what was agreed sends no more than that: a terminal must not burst.
    if (now.received - now.taken > MOST_UNTAKEN_BYTES) {
      this.shut();
      return this.#end({ how: 'broken-off', code: undefined, mayGoOn: true });
    }
    this.listeners.emit('printed', bytes);
  }

  /** Something of it was lost on the way, or may have been; and so may be the question, if whoever comes back is not known there yet. */
  #askAgain(): void {
    const lineId = this.#now?.lineId;
    if (lineId === undefined || this.#endAsking) return;
    this.#send({ type: 'again', lineId });
    this.#endAsking = this.#connection.clock.after(ASK_AGAIN_MS, () => {
      this.#endAsking = undefined;
      this.#askAgain();
    });
  }
  /** Nothing is waited for any longer. */
  #asked(): void {
    this.#endAsking?.();
    this.#endAsking = undefined;
  }

  /** It may be over without its side having said so: it went, or may not say anything any longer. */
  #follow(): void {
    const now = this.#now;
    if (!now) return;
    const { state } = this.#connection;
    const told = state.slices['command-line'][now.lineId];
    if (told?.standing !== 'over' && state.holderId === now.holderId && !isOver(state)) return;
    this.#endRest ??= this.#connection.clock.after(REST_MS, () => {
      if (this.#now !== now) return;
      const {
        how = 'broken-off',
        code,
        mayGoOn = false,
      } = this.#connection.state.slices['command-line'][now.lineId] ?? {};
      this.#end({ how, code, mayGoOn });
    });
  }
  #end(over: CommandLineOver): void {
    this.#endRest?.();
    this.#asked();
    this.#endRest = undefined;
    this.#now = undefined;
    this.listeners.emit('over', over);
  }
}

/** Keys in pieces that fit into a message, none of which ends within a character. */
export function* keyPieces(text: string): Generator<string> {
  for (let at = 0; at < text.length;) {
    let end = Math.min(text.length, at + MAX_KEYS_CHARACTERS);
    if (end < text.length && /[\ud800-\udbff]/.test(text[end - 1] ?? '')) end--;
    yield text.slice(at, end);
    at = end;
  }
}
