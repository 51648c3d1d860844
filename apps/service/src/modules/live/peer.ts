import type { Side } from '@porch/core';
import type { VersionTable } from '@porch/screen';
import {
  AppError,
  COMMAND_WINDOW,
  decodeHandled,
  encodeHandled,
  encodeRelayFrame,
  errorCatalogue,
  frameKinds,
  HandledCount,
  PacedLine,
  type Clock,
  type ErrorCode,
  type Frame,
  type ServerMessage,
} from '@porch/wire';
import type { WebSocket } from 'ws';
import { TokenBucket } from '../../sockets/token-bucket.ts';

/** Words a participant may send: who sends more is read more slowly, and loses nothing. */
const TEXT_PER_SECOND = 100;
const TEXT_BURST = 200;
/** Who keeps to the window that the welcome states never gets here: further unanswered commands are an attack. */
const MAX_UNANSWERED = 8 * COMMAND_WINDOW;
/** Binary messages: more closes the connection with TOO_MANY_MESSAGES. */
const BINARY_PER_SECOND = 2_000;
const BINARY_BURST = 6_000;
/** Frames for a participant whose socket holds this much unsent are dropped: their senders send again. */
const MAX_UNSENT_BYTES = 4 * 1024 * 1024;
/** Control messages must arrive in order; a participant that cannot even take those is cut and resumes. */
const MAX_UNSENT_CONTROL_BYTES = 16 * 1024 * 1024;

function handledFrame(seat: number, total: number): Uint8Array {
  return encodeRelayFrame({
    channel: 'line',
    kind: frameKinds.line.handled,
    receiverSeat: seat,
    payload: encodeHandled(total),
  });
}

/** One participant's socket, once they have said who they are. */
export class Peer {
  readonly socket: WebSocket;
  readonly participantId: string;
  readonly seat: number;
  readonly side: Side;
  readonly #text: TokenBucket;
  readonly #binary: TokenBucket;
  /** What they have of the ledger; what comes after is theirs to get. */
  sentSeq = 0;
  sentAsideSeq = 0;
  /** What they want to see: a display, of whoever holds the consent where they name nobody. */
  readonly watched = new Map<string, { readonly from: number | undefined; readonly display: number }>();
  /** Whose sign-in it came with, for technicians: when that ends, so does this. */
  readonly signInId: string | undefined;
  #unanswered = 0;
  /** What they said they hold of each stream when they came back. */
  readonly held = new Map<string, VersionTable>();
  readonly #line: PacedLine;
  readonly #handled: HandledCount;
  /** Back after their place was given up: they may still deliver what they had decided, and nothing else. */
  readonly isLate: boolean;

  /** `onRoom`: their line can take more picture. */
  constructor(
    socket: WebSocket,
    participant: { id: string; seat: number; side: Side; isGone: boolean },
    onRoom: (peer: Peer) => void,
    clock: Clock,
    signInId?: string,
  ) {
    this.signInId = signInId;
    this.socket = socket;
    const now = () => clock.nowMs();
    this.#text = new TokenBucket(TEXT_PER_SECOND, TEXT_BURST, now);
    this.#binary = new TokenBucket(BINARY_PER_SECOND, BINARY_BURST, now);
    this.#line = new PacedLine({ send: (bytes) => socket.send(bytes), onRoom: () => onRoom(this), now });
    this.#handled = new HandledCount((total) => {
      if (socket.readyState === socket.OPEN) socket.send(handledFrame(participant.seat, total));
    }, clock);
    socket.once('close', () => this.#handled.close());
    this.participantId = participant.id;
    this.seat = participant.seat;
    this.side = participant.side;
    this.isLate = participant.isGone;
  }

  /** How long nothing more is to be read of them. Throws TOO_MANY_MESSAGES for what only somebody hostile sends. */
  countMessage(isBinary: boolean): number {
    if (!isBinary) return this.#text.takeAndWaitMs();
    if (!this.#binary.take()) throw new AppError('TOO_MANY_MESSAGES');
    return 0;
  }

  countCommand(): void {
    if (++this.#unanswered > MAX_UNANSWERED) throw new AppError('TOO_MANY_MESSAGES');
  }

  answer(message: Extract<ServerMessage, { type: 'accepted' | 'refused' }>): void {
    this.#unanswered--;
    this.send(message);
  }

  send(message: ServerMessage): void {
    if (this.socket.readyState !== this.socket.OPEN) return;
    if (this.socket.bufferedAmount > MAX_UNSENT_CONTROL_BYTES) this.close('SILENT');
    else this.socket.send(JSON.stringify(message));
  }

  /** False when it was dropped, because the line does not carry more just now. */
  sendFrame(bytes: Uint8Array): boolean {
    if (this.socket.readyState !== this.socket.OPEN || this.socket.bufferedAmount > MAX_UNSENT_BYTES) return false;
    this.#line.send(bytes);
    return true;
  }

  /** Sound goes at once or not at all. */
  sendFresh(bytes: Uint8Array): boolean {
    return this.socket.readyState === this.socket.OPEN && this.#line.offerFresh(bytes);
  }

  /** Files go after everything else. False when too much waits already. */
  sendBulk(bytes: Uint8Array): boolean {
    return this.socket.readyState === this.socket.OPEN && this.#line.offerBulk(bytes);
  }

  /** Whether their line can take more picture now. */
  get hasRoom(): boolean {
    if (this.#line.hasRoom) return true;
    this.#line.noteStarved();
    return false;
  }

  /** Counts what came in, and says that it was taken over; true when it was such a word itself. */
  takeLine(frame: Frame, sizeBytes: number): boolean {
    if (frame.channel === 'line') {
      const total = decodeHandled(frame.payload);
      if (total === undefined) throw new AppError('MESSAGE_INVALID');
      this.#line.handled(total);
      return true;
    }
    this.#handled.add(sizeBytes);
    return false;
  }

  close(code: ErrorCode): void {
    this.socket.close(errorCatalogue[code].closeCode, code);
  }
}
