import {
  encodeHandled,
  encodeRelayFrame,
  errorCatalogue,
  frameKinds,
  HandledCount,
  HEARTBEAT_MS,
  PacedLine,
  SILENCE_MS,
  type ClientMessage,
  type Clock,
  type ErrorCode,
} from '@porch/wire';

/** What a browser's WebSocket and the `ws` package have in common. */
export interface SocketLike {
  binaryType: string;
  readonly bufferedAmount: number;
  send(data: string | Uint8Array): void;
  close(code?: number, reason?: string): void;
  onopen: ((event: never) => void) | null;
  onmessage: ((event: never) => void) | null;
  onclose: ((event: never) => void) | null;
  onerror: ((event: never) => void) | null;
}

/** How long a connection may take to be asked for and opened: a router that forgot it says nothing, ever. */
export const CONNECT_MS = 10_000;

export interface LiveSocketParts {
  readonly clock: Clock;
  /** Our seat, once somebody has told it. */
  seat(): number;
  onData(data: unknown): void;
  /** The line can take more picture. */
  onRoom(): void;
  /** Nothing comes here any longer, and why if the service said so. Never after `close`. */
  onOver(reason: string): void;
}

/** One socket from when it is opened until it is over: what is on its way on it, and whether anybody is still there. */
export class LiveSocket {
  readonly line: PacedLine;
  readonly #socket: SocketLike;
  readonly #parts: LiveSocketParts;
  readonly #handled: HandledCount;
  readonly #endOpening: () => void;
  readonly #endBeating: () => void;
  #heardAtMs: number;
  #isLive = false;
  #isOver = false;

  constructor(socket: SocketLike, parts: LiveSocketParts) {
    this.#socket = socket;
    this.#parts = parts;
    const { clock } = parts;
    socket.binaryType = 'arraybuffer';
    this.line = new PacedLine({
      send: (bytes) => socket.send(bytes),
      onRoom: () => parts.onRoom(),
      now: () => clock.nowMs(),
    });
    this.#handled = new HandledCount((total) => {
      if (this.#isLive && !this.#isOver) socket.send(handledFrame(parts.seat(), total));
    }, clock);
    this.#heardAtMs = clock.nowMs();
    // Whoever neither opens nor refuses is given up like a line that was silent.
    this.#endOpening = clock.after(CONNECT_MS, () => this.#giveUp());
    this.#endBeating = clock.every(HEARTBEAT_MS, () => this.#beat());
    socket.onopen = () => undefined; // The service speaks first.
    socket.onmessage = (event: { data: unknown }) => {
      if (this.#isOver) return;
      this.#heardAtMs = clock.nowMs();
      parts.onData(event.data);
    };
    socket.onerror = () => undefined; // Always followed by `onclose`, which does the work.
    socket.onclose = (event: { reason: string }) => {
      if (this.#isOver) return;
      this.#end();
      parts.onOver(event.reason);
    };
  }

  /** The service has let us in. */
  welcomed(): void {
    this.#endOpening();
  }
  /** Everything up to now has arrived: from here on the other end is told what was handled. */
  caughtUp(): void {
    this.#isLive = true;
  }

  send(message: ClientMessage): void {
    if (!this.#isOver) this.#socket.send(JSON.stringify(message));
  }
  handled(bytes: number): void {
    this.#handled.add(bytes);
  }

  /** What still comes is nobody's. */
  close(code: number, reason: string): void {
    this.#end();
    this.#socket.close(code, reason);
  }
  /** The other end says what cannot be: it is cut off, and the line is taken up again. */
  refuse(why: ErrorCode): void {
    this.#socket.close(errorCatalogue[why].closeCode, why);
  }

  #beat(): void {
    const nowMs = this.#parts.clock.nowMs();
    if (nowMs - this.#heardAtMs > SILENCE_MS) this.#giveUp();
    else if (this.#isLive) this.send({ type: 'beat', sentAtMs: Math.round(nowMs) });
  }

  /** A line that died without a word: closing may itself take long, so go on without waiting for it. */
  #giveUp(): void {
    if (this.#isOver) return;
    this.close(errorCatalogue.SILENT.closeCode, 'SILENT');
    this.#parts.onOver('');
  }

  #end(): void {
    this.#isOver = true;
    this.#endOpening();
    this.#endBeating();
    this.#handled.close();
  }
}

const handledFrame = (seat: number, total: number): Uint8Array =>
  encodeRelayFrame({
    channel: 'line',
    kind: frameKinds.line.handled,
    senderSeat: seat,
    payload: encodeHandled(total),
  });
