import {
  AppError,
  errorCatalogue,
  HEARTBEAT_MS,
  HELLO_MS,
  SILENCE_MS,
  type ClientMessage,
  type Clock,
  type ErrorCode,
  type ServerMessage,
} from '@porch/wire';
import type { FastifyBaseLogger } from 'fastify';
import type { WebSocket } from 'ws';
import type { Background } from '../../module/background.ts';
import { refusalOf } from '../../refusal-of.ts';
import type { Hello } from './admission.ts';
import { parseText } from './parse-text.ts';
import type { Peer } from './peer.ts';
import type { Room } from './room.ts';

/** A socket that was told to go gets this long to close politely. */
export const CLOSE_MS = 1_000;
/** Closing for one of these: what else the socket sends is not even read. A program of another age has nothing more to say. */
const deafCodes: readonly ErrorCode[] = [
  'PROTOCOL_VERSION',
  'TOO_MANY_MESSAGES',
  'MESSAGE_INVALID',
  'MESSAGE_TOO_LARGE',
  'OUT_OF_ORDER',
  'SILENT',
];

/** Who is at the other end: nobody we know, somebody whose hello is being looked at, a participant, or nobody any longer. */
type Visitor =
  | { readonly name: 'stranger' }
  | { readonly name: 'admitting' }
  | { readonly name: 'in'; readonly peer: Peer; readonly room: Room }
  | { readonly name: 'done' };

export interface Admitted {
  readonly peer: Peer;
  readonly room: Room;
  readonly lastSeq: number;
}

export interface VisitParts {
  readonly clock: Clock;
  readonly log: FastifyBaseLogger;
  readonly background: Background;
  /** What a hello on this socket has to sign. */
  readonly nonce: string;
  admit(hello: Hello): Promise<Admitted>;
  /** They are none of those any longer who have not said who they are. */
  leaveStrangers(): void;
  onIn(): void;
}

/** One socket, from its first byte to its last: hello first, then what a participant says, in the order in which it came. */
export class Visit {
  readonly #socket: WebSocket;
  readonly #parts: VisitParts;
  readonly #endHello: () => void;
  readonly #endSilence: () => void;
  #endPause: () => void = () => undefined;
  #visitor: Visitor = { name: 'stranger' };
  #heardAtMs: number;
  /** Messages of one participant are handled in the order in which they came, hello first. */
  #work: Promise<void> = Promise.resolve();

  constructor(socket: WebSocket, parts: VisitParts) {
    this.#socket = socket;
    this.#parts = parts;
    const { clock, log } = parts;
    this.#heardAtMs = clock.nowMs();
    this.#endHello = clock.after(HELLO_MS, () => this.#fail(new AppError('SILENT')));
    this.#endSilence = clock.every(HEARTBEAT_MS, () => {
      if (clock.nowMs() - this.#heardAtMs > SILENCE_MS) socket.terminate();
    });
    socket.on('message', (data: Buffer, isBinary) => this.#take(data, isBinary));
    socket.on('error', (error: Error & { code?: string }) => {
      const tooLarge = error.code === 'WS_ERR_UNSUPPORTED_MESSAGE_LENGTH';
      log.info({ code: error.code, tooLarge }, 'a live connection broke');
    });
    socket.on('close', () => this.#closed());
    socket.send(JSON.stringify({ type: 'challenge', nonce: parts.nonce } satisfies ServerMessage));
  }

  #take(data: Buffer, isBinary: boolean): void {
    const visitor = this.#visitor;
    // What comes behind a close is parsed no further.
    if (visitor.name === 'done' || !this.#isOpen) return;
    this.#heardAtMs = this.#parts.clock.nowMs();
    try {
      if (!isBinary && visitor.name === 'in') this.#takeText(visitor, data);
      else if (!isBinary) this.#takeFirst(data);
      else if (visitor.name !== 'in') throw new AppError('OUT_OF_ORDER');
      else {
        visitor.peer.countMessage(true);
        visitor.room.handleFrame(visitor.peer, data);
      }
    } catch (error) {
      this.#fail(error);
    }
  }

  /** Before anything else there is one thing to say, once. */
  #takeFirst(data: Buffer): void {
    if (this.#visitor.name === 'admitting') throw new AppError('OUT_OF_ORDER');
    const parsed = parseText(data);
    if (parsed === 'later' || parsed.isRefused || parsed.message.type !== 'hello') throw new AppError('OUT_OF_ORDER');
    this.#visitor = { name: 'admitting' };
    this.#endHello();
    this.#parts.leaveStrangers();
    this.#work = this.#parts.admit(parsed.message).then(({ peer, room, lastSeq }) => {
      // Gone while the records were slow: the room gives them the usual grace, and nothing else is left behind.
      if (!this.#isOpen || this.#visitor.name !== 'admitting') return;
      this.#visitor = { name: 'in', peer, room };
      room.enter(peer, lastSeq);
      this.#parts.onIn();
    });
    this.#work = this.#work.catch((error: unknown) => this.#fail(error));
  }

  #takeText({ peer, room }: { peer: Peer; room: Room }, data: Buffer): void {
    this.#slowDown(peer.countMessage(false));
    const parsed = parseText(data);
    if (parsed === 'later') return;
    if (parsed.isRefused) {
      peer.countCommand();
      peer.answer({ type: 'refused', id: parsed.id, code: 'MESSAGE_INVALID', message: parsed.why });
    } else if (parsed.message.type === 'hello') throw new AppError('OUT_OF_ORDER');
    else this.#takeTold(peer, room, parsed.message);
  }

  #takeTold(peer: Peer, room: Room, message: Exclude<ClientMessage, Hello>): void {
    if (message.type === 'beat') {
      peer.send({ type: 'beat', sentAtMs: message.sentAtMs });
      return;
    }
    if (message.type === 'command' || message.type === 'aside') peer.countCommand();
    this.#work = this.#work
      .then(() => (this.#isOpen ? room.handleMessage(peer, message) : undefined))
      .catch((error: unknown) => this.#fail(error));
  }

  /** Whoever says too much is read more slowly, and loses nothing. */
  #slowDown(waitMs: number): void {
    if (waitMs <= 0 || !this.#isOpen) return;
    this.#socket.pause();
    this.#endPause();
    this.#endPause = this.#parts.clock.after(waitMs, () => this.#socket.resume());
  }

  get #isOpen(): boolean {
    return this.#socket.readyState === this.#socket.OPEN;
  }

  /** The one place where a failure becomes a close code. */
  #fail(error: unknown): void {
    if (this.#visitor.name !== 'in') this.#visitor = { name: 'done' };
    const { code } = refusalOf(error);
    if (code === 'INTERNAL') this.#parts.log.error({ err: error }, 'a live connection failed');
    this.#socket.close(errorCatalogue[code].closeCode, code);
    if (deafCodes.includes(code)) this.#socket.pause();
    this.#socket.once(
      'close',
      this.#parts.clock.after(CLOSE_MS, () => this.#socket.terminate()),
    );
  }

  #closed(): void {
    this.#parts.leaveStrangers();
    this.#endHello();
    this.#endPause();
    this.#endSilence();
    this.#parts.background.run('leaving a session', () =>
      this.#work.then(() => {
        const was = this.#visitor;
        this.#visitor = { name: 'done' };
        if (was.name === 'in') was.room.leave(was.peer);
      }),
    );
  }
}
