import {
  abilityVersions,
  type LedgerEntry,
  type Permission,
  type SessionCommand,
  type SessionState,
  type WhyNot,
} from '@porch/core';
import {
  AppError,
  decodeFrame,
  decodeHandled,
  encodeFrame,
  encodeHandled,
  COMMAND_WINDOW,
  frameKinds,
  HandledCount,
  HEARTBEAT_MS,
  helloOf,
  isErrorCode,
  isLaterServerMessage,
  MAX_TEXT_BYTES,
  PacedLine,
  PROTOCOL_VERSION,
  ServerMessage,
  SILENCE_MS,
  errorCatalogue,
  type AsideMessage,
  type ClientMessage,
  type ConnectionPass,
  type CustomerStep,
  type ErrorCode,
  type Frame,
  type ParticipantKeys,
} from '@porch/wire';
import type { z } from 'zod';
import type { PresenceRow, ViewerRow } from '@porch/wire';
import { inBackground } from './in-background.ts';
import { LedgerFollower, LedgerForked, ProgramTooOld } from './ledger-follower.ts';
import { Listeners } from './listeners.ts';

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

export interface LiveOptions {
  /** Fetches a fresh pass: each is good for one connection. */
  pass(): Promise<ConnectionPass>;
  openSocket(url: string): SocketLike;
  /** Those that a tab keeps are there a moment later. */
  readonly keys: ParticipantKeys | Promise<ParticipantKeys>;
  readonly computer?: string;
  /** What this program, as the consent holder, cannot do. */
  readonly cannot?: Partial<Record<Permission, WhyNot>>;
  /** What it can do, as the consent holder. */
  readonly can?: readonly Permission[];
}

export type LiveStatus = 'connecting' | 'live' | 'waiting' | 'closed';

export interface LiveEvents {
  status: LiveStatus;
  entry: LedgerEntry;
  asides: readonly AsideMessage[];
  presence: readonly z.infer<typeof PresenceRow>[];
  viewers: readonly ViewerRow[];
  frame: { frame: Frame; bytes: Uint8Array };
  /** The line can take more picture. */
  room: undefined;
  welcome: { participantId: string; seat: number };
  caughtUp: undefined;
  /** It is over for good, and why. */
  failed: AppError;
}

/** First wait before connecting again; it doubles up to the last, with a quarter of jitter either way. */
const RETRY_FIRST_MS = 250;
const RETRY_LAST_MS = 2_000;
/** How long a connection may take to be asked for and opened: a router that forgot it says nothing, ever. */
const CONNECT_MS = 10_000;
/** Commands that wait for an answer; more is a caller that never waits. */
const MAX_PENDING_COMMANDS = 500;

/** Closing for one of these is final; everything else is tried again with a new pass. */
const finalCodes: readonly ErrorCode[] = [
  'PROTOCOL_VERSION',
  'SESSION_NOT_FOUND',
  'NOT_PRESENT',
  'SESSION_FULL',
  'REPLACED',
  'SIGN_IN_NEEDED',
  'NOT_YOUR_ROLE',
  'INVITATION_UNKNOWN',
  'PASS_NOT_FOR_THIS',
];

interface Pending {
  readonly message: Extract<ClientMessage, { type: 'command' | 'aside' }>;
  resolve(): void;
  reject(error: AppError): void;
}

/**
 * One participant's connection to a session. It connects again by itself, goes on after the last entry it has, checks
 * that the ledger it is told continues the one it knows, and sends a command until it has an answer.
 */
export class LiveConnection {
  readonly listeners = new Listeners<LiveEvents>();
  readonly #options: LiveOptions;
  /** In the order in which they were given; those on their way are the first of them. */
  readonly #ledger = new LedgerFollower();
  readonly #pending = new Map<string, Pending>();
  readonly #onTheirWay = new Set<string>();
  #commandWindow = COMMAND_WINDOW;
  #keys: ParticipantKeys | undefined;
  #socket: SocketLike | undefined;
  #status: LiveStatus = 'connecting';
  #retryMs = RETRY_FIRST_MS;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #heartbeat: ReturnType<typeof setInterval> | undefined;
  #heardAtMs = 0;
  /** Answers the service's first word on the socket that is being opened, once. */
  #sayHello: ((nonce: string) => void) | undefined;
  #opening: ReturnType<typeof setTimeout> | undefined;
  #ownerEpoch = 0;
  #clockOffsetMs = 0;
  #line: PacedLine | undefined;
  #handledCount: HandledCount | undefined;
  #pictureTaker: ((bytes: Uint8Array) => void) | undefined;
  asides: AsideMessage[] = [];
  presence: readonly z.infer<typeof PresenceRow>[] = [];
  viewers: readonly ViewerRow[] = [];
  participantId = '';
  sessionId = '';
  seat = 0;
  roundTripMs = 0;

  constructor(options: LiveOptions) {
    this.#options = options;
    if (!(options.keys instanceof Promise)) this.#keys = options.keys;
    inBackground('connecting', this.#connect());
  }

  get status(): LiveStatus {
    return this.#status;
  }
  /** What is true now, by the ledger that this program was told and has checked. */
  get state(): SessionState {
    return this.#ledger.state;
  }
  get entries(): readonly LedgerEntry[] {
    return this.#ledger.entries;
  }
  get head(): { seq: number; hash: string } {
    return this.#ledger.head;
  }
  get keys(): ParticipantKeys {
    if (!this.#keys) throw new Error('nobody has come in yet: there are no keys');
    return this.#keys;
  }
  /** The service's clock, as near as one message can tell. It goes on evenly, whatever somebody does to ours. */
  get serviceNowMs(): number {
    return performance.now() + this.#clockOffsetMs;
  }

  on<K extends keyof LiveEvents>(name: K, listener: (value: LiveEvents[K]) => void): () => void {
    return this.listeners.on(name, listener);
  }

  /** Resolves once everything up to now has arrived. */
  async ready(): Promise<this> {
    if (this.#status === 'live') return this;
    return new Promise((resolve, reject) => {
      const offs = [
        this.on('caughtUp', () => {
          offs.forEach((off) => off());
          resolve(this);
        }),
        this.on('failed', (error) => {
          offs.forEach((off) => off());
          reject(error);
        }),
      ];
    });
  }

  /** Resolves when the service has it in its records, rejects with an AppError when it refuses. Survives reconnects. */
  command(command: SessionCommand, id: string = crypto.randomUUID()): Promise<void> {
    return this.#request({ type: 'command', id, command });
  }

  aside(text: string): Promise<void> {
    return this.#request({ type: 'aside', id: crypto.randomUUID(), text });
  }

  tellStep(step: CustomerStep): void {
    this.#send({ type: 'step', step });
  }

  /** A display of whoever sits at `from`; without it, of whoever holds the consent, also when that changes. */
  watch(display: number, isOn: boolean, from?: number): void {
    this.#send({ type: 'watch', ...(from === undefined ? {} : { from }), display, isOn });
  }

  /** Binary messages are fresh or worthless: without a line they are dropped. */
  sendFrame(bytes: Uint8Array): boolean {
    if (this.#status !== 'live' || !this.#line) return false;
    this.#line.send(bytes);
    return true;
  }

  /** Files go after everything else, and wait here for their turn. */
  sendBulk(bytes: Uint8Array): boolean {
    return this.#status === 'live' && this.#line !== undefined && this.#line.offerBulk(bytes);
  }

  /** Whether the line can take more picture now; `room` says when it can again. */
  get hasRoom(): boolean {
    if (this.#status !== 'live' || !this.#line) return false;
    if (this.#line.hasRoom) return true;
    this.#line.noteStarved();
    return false;
  }
  /** How large the next message may be, so that nothing waits long behind it. */
  get messageBytes(): number {
    return this.#line?.messageBytes ?? 0;
  }
  get bytesPerSecond(): number {
    return this.#line?.bytesPerSecond ?? 0;
  }

  /**
   * Takes the screen and cursor messages from now on. Whoever takes them says `handled` once they are painted: that is
   * what the sender measures the line by. Undefined gives them up again.
   */
  setPictureTaker(taker: ((bytes: Uint8Array) => void) | undefined): void {
    this.#pictureTaker = taker;
  }

  handled(bytes: number): void {
    this.#handledCount?.add(bytes);
  }

  close(): void {
    if (this.#status === 'closed') return;
    this.#stop();
    this.#socket?.close(1000, 'done');
    for (const pending of this.#pending.values()) pending.reject(new AppError('NOT_PRESENT'));
    this.#pending.clear();
    this.listeners.clear();
  }

  #stop(): void {
    clearTimeout(this.#timer);
    clearTimeout(this.#opening);
    clearInterval(this.#heartbeat);
    this.#setStatus('closed');
  }

  #request(message: Pending['message']): Promise<void> {
    if (this.#status === 'closed') return Promise.reject(new AppError('NOT_PRESENT'));
    if (this.#pending.size >= MAX_PENDING_COMMANDS) return Promise.reject(new AppError('TOO_MANY_MESSAGES'));
    if (utf8Length(JSON.stringify(message)) > MAX_TEXT_BYTES) return Promise.reject(new AppError('MESSAGE_TOO_LARGE'));
    return new Promise((resolve, reject) => {
      this.#pending.set(message.id, { message, resolve, reject });
      this.#sendPending();
    });
  }

  /** At the pace that the service states, and in order: what it has not answered counts. */
  #sendPending(): void {
    if (this.#status !== 'live') return;
    for (const [id, { message }] of this.#pending) {
      if (this.#onTheirWay.size >= this.#commandWindow) return;
      if (this.#onTheirWay.has(id)) continue;
      this.#onTheirWay.add(id);
      this.#send(message);
    }
  }

  #answered(id: string): Pending | undefined {
    const pending = this.#pending.get(id);
    this.#pending.delete(id);
    this.#onTheirWay.delete(id);
    this.#sendPending();
    return pending;
  }

  #send(message: ClientMessage): void {
    if (this.#socket && (this.#status === 'live' || message.type === 'hello'))
      this.#socket.send(JSON.stringify(message));
  }

  #setStatus(status: LiveStatus): void {
    if (this.#status === status) return;
    this.#status = status;
    this.listeners.emit('status', status);
  }

  async #connect(): Promise<void> {
    let pass: ConnectionPass;
    try {
      this.#keys ??= await this.#options.keys;
      pass = await inTime(this.#options.pass());
    } catch (error) {
      if (this.#status === 'closed') return;
      if (error instanceof AppError && (finalCodes.includes(error.code) || error.spec.status === 404))
        this.#fail(error);
      else this.#retryLater();
      return;
    }
    if (this.#status === 'closed') return;
    let socket: SocketLike;
    try {
      socket = this.#options.openSocket(pass.liveUrl);
    } catch {
      // A browser or a firewall may refuse at once; that is a line that is down, and tried again like one.
      this.#retryLater();
      return;
    }
    socket.binaryType = 'arraybuffer';
    this.#socket = socket;
    this.#handledCount?.close();
    this.#handledCount = new HandledCount((total) => {
      if (socket !== this.#socket || this.#status !== 'live') return;
      socket.send(
        encodeFrame({
          channel: 'line',
          kind: frameKinds.line.handled,
          display: 0,
          senderSeat: this.seat,
          receiverSeat: 0,
          epoch: 0,
          displayGeneration: 0,
          counter: 0n,
          payload: encodeHandled(total),
        }),
      );
    });
    this.#line = new PacedLine({
      send: (bytes) => socket.send(bytes),
      onRoom: () => this.listeners.emit('room', undefined),
    });
    this.#heardAtMs = performance.now();
    this.#sayHello = (nonce) => this.#hello(nonce, pass);
    // Whoever neither opens nor refuses is given up like a line that was silent.
    clearTimeout(this.#opening);
    this.#opening = setTimeout(() => {
      if (socket === this.#socket) this.#giveUp(socket);
    }, CONNECT_MS);
    socket.onopen = () => undefined; // The service speaks first.
    socket.onmessage = (event: { data: unknown }) => {
      if (socket === this.#socket) this.#handleData(event.data);
    };
    socket.onerror = () => undefined; // Always followed by `onclose`, which does the work.
    socket.onclose = (event: { code: number; reason: string }) => {
      if (socket !== this.#socket) return;
      this.#socket = undefined;
      clearInterval(this.#heartbeat);
      clearTimeout(this.#opening);
      if (this.#status === 'closed') return;
      const code = event.reason;
      if (isErrorCode(code) && finalCodes.includes(code)) this.#fail(new AppError(code));
      else this.#retryLater();
    };
    clearInterval(this.#heartbeat);
    this.#heartbeat = setInterval(() => this.#beat(), HEARTBEAT_MS);
  }

  #hello(nonce: string, pass: ConnectionPass): void {
    const { computer, cannot, can } = this.#options;
    this.#send({
      type: 'hello',
      version: PROTOCOL_VERSION,
      ...helloOf(this.keys, nonce, pass),
      lastSeq: this.#ledger.head.seq,
      lastHash: this.#ledger.head.hash,
      ...(computer === undefined ? {} : { computer }),
      ...(cannot === undefined ? {} : { cannot }),
      ...(can === undefined ? {} : { can: [...can] }),
      abilities: { ...abilityVersions },
    });
  }

  #beat(): void {
    const socket = this.#socket;
    if (performance.now() - this.#heardAtMs <= SILENCE_MS)
      this.#send({ type: 'beat', sentAtMs: Math.round(performance.now()) });
    else if (socket) this.#giveUp(socket);
  }

  /** A line that died without a word: closing may itself take long, so go on without waiting for it. */
  #giveUp(socket: SocketLike): void {
    this.#socket = undefined;
    socket.close(errorCatalogue.SILENT.closeCode, 'SILENT');
    clearInterval(this.#heartbeat);
    this.#retryLater();
  }

  #fail(error: AppError): void {
    this.#stop();
    // What still comes on it is nobody's: a line that was given up for good must not come to life again.
    const socket = this.#socket;
    this.#socket = undefined;
    socket?.close(1000, 'done');
    // Told that we left, and let go before the answer came: the leaving itself was taken.
    const hasLeft = this.state.participants[this.participantId]?.isGone === true;
    for (const { message, resolve, reject } of this.#pending.values())
      if (hasLeft && message.type === 'command' && message.command.type === 'leaveSession') resolve();
      else reject(error);
    this.#pending.clear();
    this.listeners.emit('failed', error);
    this.listeners.clear();
  }

  #retryLater(): void {
    this.#setStatus('waiting');
    clearTimeout(this.#timer);
    this.#timer = setTimeout(
      () => inBackground('connecting', this.#connect()),
      this.#retryMs * (0.75 + Math.random() / 2),
    );
    this.#retryMs = Math.min(RETRY_LAST_MS, this.#retryMs * 2);
  }

  #handleData(data: unknown): void {
    this.#heardAtMs = performance.now();
    try {
      if (typeof data === 'string') {
        const said: unknown = JSON.parse(data);
        if (!isLaterServerMessage(said)) this.#handleMessage(ServerMessage.parse(said));
      } else {
        this.#handleBinary(new Uint8Array(data as ArrayBuffer));
      }
    } catch (error) {
      if (error instanceof LedgerForked) this.#fail(new AppError('OUT_OF_ORDER', { why: error.message }));
      // Written by a later release, and not to be passed over: whoever cannot read it must not act.
      else if (error instanceof ProgramTooOld) this.#fail(new AppError('PROTOCOL_VERSION'));
      else this.#socket?.close(errorCatalogue.MESSAGE_INVALID.closeCode, 'MESSAGE_INVALID');
    }
  }

  #handleBinary(bytes: Uint8Array): void {
    const frame = decodeFrame(bytes);
    if (frame.channel === 'line') {
      const total = decodeHandled(frame.payload);
      if (total !== undefined) this.#line?.handled(total);
      return;
    }
    const isPicture = (frame.channel === 'screen' || frame.channel === 'cursor') && frame.senderSeat !== 0;
    if (isPicture && this.#pictureTaker) {
      this.#pictureTaker(bytes);
      return;
    }
    this.handled(bytes.byteLength);
    this.listeners.emit('frame', { frame, bytes });
  }

  #handleMessage(message: ServerMessage): void {
    switch (message.type) {
      case 'challenge':
        this.#sayHello?.(message.nonce);
        this.#sayHello = undefined;
        break;
      case 'welcome':
        if (message.ownerEpoch < this.#ownerEpoch) throw new AppError('OUT_OF_ORDER');
        clearTimeout(this.#opening);
        this.#ownerEpoch = message.ownerEpoch;
        this.#clockOffsetMs = message.nowMs - performance.now();
        this.#commandWindow = message.commandWindow;
        this.participantId = message.participantId;
        this.sessionId = message.sessionId;
        this.seat = message.seat;
        this.listeners.emit('welcome', message);
        break;
      case 'entries':
        for (const row of message.rows) {
          const entry = this.#ledger.take(row);
          if (entry) this.listeners.emit('entry', entry);
        }
        break;
      case 'asides':
        this.asides = [...this.asides, ...message.asides.filter((a) => a.seq > this.asides.length)];
        this.listeners.emit('asides', this.asides);
        break;
      case 'caughtUp':
        this.#retryMs = RETRY_FIRST_MS;
        this.#setStatus('live');
        this.#onTheirWay.clear();
        this.#sendPending();
        this.listeners.emit('caughtUp', undefined);
        break;
      case 'accepted':
        this.#answered(message.id)?.resolve();
        break;
      case 'refused':
        this.#answered(message.id)?.reject(new AppError(message.code));
        break;
      case 'presence':
        this.presence = message.participants;
        this.listeners.emit('presence', this.presence);
        break;
      case 'viewers':
        this.viewers = message.viewers;
        this.listeners.emit('viewers', this.viewers);
        break;
      case 'beat':
        this.roundTripMs = performance.now() - message.sentAtMs;
        break;
    }
  }
}

const utf8Length = (text: string): number => new TextEncoder().encode(text).length;

/** Rejects when nothing came of it in time; what comes later is nobody's. */
async function inTime<T>(work: Promise<T>): Promise<T> {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const tooLate = new Promise<never>((_resolve, reject) => {
    timer = setTimeout(() => reject(new Error('no answer came in time')), CONNECT_MS);
  });
  try {
    return await Promise.race([work, tooLate]);
  } finally {
    clearTimeout(timer);
  }
}
