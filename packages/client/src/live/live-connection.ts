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
  helloOf,
  isErrorCode,
  isLaterServerMessage,
  PROTOCOL_VERSION,
  randomId,
  randomShare,
  realClock,
  realRandomness,
  ServerMessage,
  plainCiphers,
  type AsideMessage,
  type Ciphers,
  type ClientMessage,
  type Clock,
  type ConnectionPass,
  type CustomerStep,
  type ErrorCode,
  type Frame,
  type ParticipantKeys,
  type Randomness,
} from '@porch/wire';
import type { PresenceRow, ViewerRow } from '@porch/wire';
import { inBackground } from '../in-background.ts';
import { Listeners } from '../listeners.ts';
import { LedgerFollower, LedgerForked, ProgramTooOld } from './ledger-follower.ts';
import { CONNECT_MS, LiveSocket, type SocketLike } from './live-socket.ts';
import { PendingCommands } from './pending-commands.ts';

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
  readonly clock?: Clock;
  readonly random?: Randomness;
  readonly ciphers?: Ciphers;
}

export type LiveStatus = 'connecting' | 'live' | 'waiting' | 'closed';

export interface LiveEvents {
  status: LiveStatus;
  entry: LedgerEntry;
  asides: readonly AsideMessage[];
  presence: readonly PresenceRow[];
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

/**
 * One participant's connection to a session. It connects again by itself, goes on after the last entry it has, checks
 * that the ledger it is told continues the one it knows, and sends a command until it has an answer.
 */
export class LiveConnection {
  readonly listeners = new Listeners<LiveEvents>();
  /** Whatever hangs on this connection goes by these. */
  readonly clock: Clock;
  readonly random: Randomness;
  readonly ciphers: Ciphers;
  readonly #options: LiveOptions;
  readonly #ledger = new LedgerFollower();
  readonly #pending: PendingCommands;
  #keys: ParticipantKeys | undefined;
  #socket: LiveSocket | undefined;
  #status: LiveStatus = 'connecting';
  #retryMs = RETRY_FIRST_MS;
  #endRetry: () => void = () => undefined;
  /** Answers the service's first word on the socket that is being opened, once. */
  #sayHello: ((nonce: string) => void) | undefined;
  #ownerEpoch = 0;
  #clockOffsetMs = 0;
  #pictureTaker: ((bytes: Uint8Array) => void) | undefined;
  asides: AsideMessage[] = [];
  presence: readonly PresenceRow[] = [];
  viewers: readonly ViewerRow[] = [];
  participantId = '';
  sessionId = '';
  seat = 0;
  roundTripMs = 0;

  constructor(options: LiveOptions) {
    this.#options = options;
    this.clock = options.clock ?? realClock;
    this.random = options.random ?? realRandomness;
    this.ciphers = options.ciphers ?? plainCiphers;
    this.#pending = new PendingCommands((message) => this.#tell(message));
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
    return this.clock.nowMs() + this.#clockOffsetMs;
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
  command(command: SessionCommand, id: string = randomId(this.random)): Promise<void> {
    return this.#ask({ type: 'command', id, command });
  }

  aside(text: string): Promise<void> {
    return this.#ask({ type: 'aside', id: randomId(this.random), text });
  }

  tellStep(step: CustomerStep): void {
    this.#tell({ type: 'step', step });
  }

  /** A display of whoever sits at `from`; without it, of whoever holds the consent, also when that changes. */
  watch(display: number, isOn: boolean, from?: number): void {
    this.#tell({ type: 'watch', ...(from === undefined ? {} : { from }), display, isOn });
  }

  /** Binary messages are fresh or worthless: without a line they are dropped. */
  sendFrame(bytes: Uint8Array): boolean {
    const line = this.#line;
    line?.send(bytes);
    return line !== undefined;
  }

  /** Goes at once or not at all. */
  sendFresh = (bytes: Uint8Array): boolean => this.#line?.offerFresh(bytes) ?? false;
  /** Files go after everything else, and wait here for their turn. */
  sendBulk = (bytes: Uint8Array, may?: () => boolean): boolean => this.#line?.offerBulk(bytes, may) ?? false;

  /** Whether the line can take more picture now; `room` says when it can again. */
  get hasRoom(): boolean {
    const line = this.#line;
    if (!line) return false;
    if (line.hasRoom) return true;
    line.noteStarved();
    return false;
  }
  /** How large the next message may be, so that nothing waits long behind it. */
  get messageBytes(): number {
    return this.#socket?.line.messageBytes ?? 0;
  }
  get bytesPerSecond(): number {
    return this.#socket?.line.bytesPerSecond ?? 0;
  }

  /**
   * Takes the screen and cursor messages from now on. Whoever takes them says `handled` once they are painted: that is
   * what the sender measures the line by. Undefined gives them up again.
   */
  setPictureTaker(taker: ((bytes: Uint8Array) => void) | undefined): void {
    this.#pictureTaker = taker;
  }

  handled(bytes: number): void {
    this.#socket?.handled(bytes);
  }

  close(): void {
    if (this.#status === 'closed') return;
    this.#stop();
    this.#pending.end(new AppError('NOT_PRESENT'));
    this.listeners.clear();
  }

  get #line() {
    return this.#status === 'live' ? this.#socket?.line : undefined;
  }

  /** What still comes on a line that was given up for good is nobody's: it must not come to life again. */
  #stop(): void {
    this.#endRetry();
    this.#setStatus('closed');
    const socket = this.#socket;
    this.#socket = undefined;
    socket?.close(1000, 'done');
  }

  #ask(message: Extract<ClientMessage, { type: 'command' | 'aside' }>): Promise<void> {
    return this.#status === 'closed' ? Promise.reject(new AppError('NOT_PRESENT')) : this.#pending.ask(message);
  }

  /** False while there is no line to say it on. */
  #tell(message: ClientMessage): boolean {
    if (this.#status !== 'live' || !this.#socket) return false;
    this.#socket.send(message);
    return true;
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
      pass = await this.#inTime(this.#options.pass());
    } catch (error) {
      if (this.#status === 'closed') return;
      if (error instanceof AppError && (finalCodes.includes(error.code) || error.spec.status === 404))
        this.#fail(error);
      else this.#retryLater();
      return;
    }
    if (this.#status === 'closed') return;
    let opened: SocketLike;
    try {
      opened = this.#options.openSocket(pass.liveUrl);
    } catch {
      // A browser or a firewall may refuse at once; that is a line that is down, and tried again like one.
      this.#retryLater();
      return;
    }
    this.#socket = new LiveSocket(opened, {
      clock: this.clock,
      seat: () => this.seat,
      onData: (data) => this.#handleData(data),
      onRoom: () => this.listeners.emit('room', undefined),
      onOver: (reason) => {
        this.#socket = undefined;
        if (isErrorCode(reason) && finalCodes.includes(reason)) this.#fail(new AppError(reason));
        else this.#retryLater();
      },
    });
    this.#sayHello = (nonce) => this.#hello(nonce, pass);
  }

  #hello(nonce: string, pass: ConnectionPass): void {
    const { computer, cannot, can } = this.#options;
    this.#socket?.send({
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

  #fail(error: AppError): void {
    this.#stop();
    // Told that we left, and let go before the answer came: the leaving itself was taken.
    const hasLeft = this.state.participants[this.participantId]?.isGone === true;
    this.#pending.end(
      error,
      (message) => hasLeft && message.type === 'command' && message.command.type === 'leaveSession',
    );
    this.listeners.emit('failed', error);
    this.listeners.clear();
  }

  #retryLater(): void {
    this.#setStatus('waiting');
    this.#endRetry();
    this.#endRetry = this.clock.after(this.#retryMs * (0.75 + randomShare(this.random) / 2), () =>
      inBackground('connecting', this.#connect()),
    );
    this.#retryMs = Math.min(RETRY_LAST_MS, this.#retryMs * 2);
  }

  #handleData(data: unknown): void {
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
      else this.#socket?.refuse('MESSAGE_INVALID');
    }
  }

  #handleBinary(bytes: Uint8Array): void {
    const frame = decodeFrame(bytes);
    if (frame.channel === 'line') {
      const total = decodeHandled(frame.payload);
      if (total !== undefined) this.#socket?.line.handled(total);
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
        this.#socket?.welcomed();
        this.#ownerEpoch = message.ownerEpoch;
        this.#clockOffsetMs = message.nowMs - this.clock.nowMs();
        this.#pending.window = message.commandWindow;
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
        this.#socket?.caughtUp();
        this.#setStatus('live');
        this.#pending.sendAgain();
        this.listeners.emit('caughtUp', undefined);
        break;
      case 'accepted':
        this.#pending.accepted(message.id);
        break;
      case 'refused':
        this.#pending.refused(message.id, new AppError(message.code));
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
        this.roundTripMs = this.clock.nowMs() - message.sentAtMs;
        break;
    }
  }

  /** Rejects when nothing came of it in time; what comes later is nobody's. */
  async #inTime<T>(work: Promise<T>): Promise<T> {
    let endWaiting: () => void = () => undefined;
    const tooLate = new Promise<never>((_resolve, reject) => {
      endWaiting = this.clock.after(CONNECT_MS, () => reject(new Error('no answer came in time')));
    });
    try {
      return await Promise.race([work, tooLate]);
    } finally {
      endWaiting();
    }
  }
}
