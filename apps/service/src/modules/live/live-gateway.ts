import {
  AppError,
  COMMAND_WINDOW,
  errorCatalogue,
  helloBytes,
  isSignedBy,
  MAX_FRAME_BYTES,
  PROTOCOL_VERSION,
  randomId,
  type Clock,
  type Randomness,
} from '@porch/wire';
import { bytesToHex } from '@noble/hashes/utils.js';
import type { FastifyBaseLogger } from 'fastify';
import type { IncomingMessage } from 'node:http';
import type { Duplex } from 'node:stream';
import type { EntityManager } from 'typeorm';
import { WebSocketServer, type WebSocket } from 'ws';
import type { Background } from '../../module/background.ts';
import { boundDebts } from '../../sockets/debts.ts';
import { letStrangerIn } from '../../sockets/let-in.ts';
import { Strangers } from '../../sockets/strangers.ts';
import { refuseUpgrade } from '../../sockets/upgrades.ts';
import type { OpenSession } from '../../module/open-session.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import { admission, checkHead, withKeys, type Hello } from './admission.ts';
import type { ConnectionPasses } from './connection-passes.ts';
import { Peer } from './peer.ts';
import { Room } from './room.ts';
import { CLOSE_MS, Visit, type Admitted } from './visit.ts';

export interface LiveGatewayOptions {
  readonly book: SessionBook;
  readonly connectionPasses: ConnectionPasses;
  readonly log: FastifyBaseLogger;
  readonly background: Background;
  readonly ownerEpoch: number;
  readonly graceMs: () => number;
  readonly restartLateMs: () => number;
  readonly clock: Clock;
  readonly random: Randomness;
  onChanged(): void;
  /** A customer's program is in: what it came with is theirs now. Runs in the transaction in which they come in. */
  entered(tx: EntityManager, passHash: Buffer, participantId: string): Promise<void>;
}

/** All live connections of this process: lets people in, and hands what they say to their session's room. */
export class LiveGateway {
  readonly #options: LiveGatewayOptions;
  readonly #server = new WebSocketServer({ noServer: true, maxPayload: MAX_FRAME_BYTES, perMessageDeflate: false });
  readonly #rooms = new Map<string, Room>();
  /** What lets go of the session that a room holds in memory. */
  readonly #holds = new Map<string, () => void>();
  readonly #strangers = new Strangers();
  readonly #offs: (() => void)[];
  #isClosed = false;

  constructor(options: LiveGatewayOptions) {
    this.#options = options;
    const { book, log } = options;
    this.#offs = [
      book.onAppended(({ sessionId, session }) => {
        // A room holds its session: whatever is written to it is told with all of it.
        if (session) this.#rooms.get(sessionId)?.handleAppended(session);
      }),
      book.onAside((session) => this.#rooms.get(session.id)?.handleAside(session)),
      boundDebts(
        () => this.#server.clients,
        (bytes) => log.warn({ bytes }, 'a connection that read too little was cut'),
      ),
    ];
  }

  /** Whether somebody is connected to it, or has a moment to come back. */
  isOpen(sessionId: string): boolean {
    return this.#rooms.has(sessionId);
  }
  get openSessions(): number {
    return this.#rooms.size;
  }
  get signIns(): string[] {
    return [...this.#rooms.values()].flatMap((room) => room.signIns);
  }
  get sockets(): number {
    return this.#server.clients.size;
  }

  /** `address`: whose socket it is, as far as the proxies that are trusted say. */
  handleUpgrade(request: IncomingMessage, socket: Duplex, head: Buffer, address: string): void {
    if (this.#isClosed) {
      refuseUpgrade(socket, 'busy');
      return;
    }
    letStrangerIn({ request, socket, head, address }, this.#strangers, this.#server, (webSocket, leave) =>
      this.#meet(webSocket, leave),
    );
  }

  /** Whether a technician is connected to this session now. */
  hasTechnician(sessionId: string): boolean {
    return this.#rooms.get(sessionId)?.hasTechnician ?? false;
  }

  /** A sign-in has ended, and all that was opened with it. */
  endSignIn(signInId: string): void {
    this.#options.connectionPasses.revoke(signInId);
    for (const room of this.#rooms.values()) room.endSignIn(signInId);
  }

  /** A session was erased: what this process knew of it goes, too. */
  forget(sessionId: string): void {
    this.#rooms.get(sessionId)?.close('SESSION_ENDED');
    this.#drop(sessionId);
  }

  async close(): Promise<void> {
    if (this.#isClosed) return;
    this.#isClosed = true;
    this.#offs.forEach((off) => off());
    for (const room of this.#rooms.values()) room.close('STOPPING');
    for (const socket of this.#server.clients) socket.close(errorCatalogue.STOPPING.closeCode, 'STOPPING');
    await this.#emptied();
    for (const socket of this.#server.clients) socket.terminate();
    this.#server.close();
  }

  /** Resolves when every socket is gone, or has had its time to close politely. */
  #emptied(): Promise<void> {
    const { clients } = this.#server;
    return new Promise((resolve) => {
      const { clock } = this.#options;
      const done = () => {
        endWaiting();
        resolve();
      };
      const endWaiting = clock.after(CLOSE_MS, done);
      const look = () => {
        if (![...clients].some((socket) => socket.readyState !== socket.CLOSED)) done();
      };
      for (const socket of clients) socket.once('close', look);
      look();
    });
  }

  #meet(socket: WebSocket, leaveStrangers: () => void): void {
    const { log, background, clock, random, onChanged } = this.#options;
    const nonce = bytesToHex(random.bytes(32));
    new Visit(socket, {
      clock,
      log,
      background,
      nonce,
      admit: (hello) => this.#admit(hello, socket, nonce),
      leaveStrangers,
      onIn: onChanged,
    });
  }

  async #admit(hello: Hello, socket: WebSocket, nonce: string): Promise<Admitted> {
    if (hello.version !== PROTOCOL_VERSION) throw new AppError('PROTOCOL_VERSION');
    const { book, connectionPasses, clock, random } = this.#options;
    const bearer = connectionPasses.redeem(hello.pass);
    const { signKey, agreeKey, startId } = hello;
    const said = { nonce, sessionId: bearer.sessionId, pass: hello.pass, signKey, agreeKey, startId };
    // Public keys stand in the ledger for all to read: only who has the secret half is the participant.
    if (!isSignedBy(signKey, helloBytes(said), hello.signature)) throw new AppError('HELLO_UNPROVEN');
    checkHead(await book.open(bearer.sessionId), hello);
    await book.act(bearer.sessionId, async ({ state }, _nowMs, tx) => {
      const decision = admission(state, bearer, hello, () => randomId(random));
      const participantId = decision.participantId;
      if (bearer.kind === 'customer' && participantId) await this.#options.entered(tx, bearer.passHash, participantId);
      return decision.events;
    });
    const session = await book.open(bearer.sessionId);
    const participant = withKeys(session.state, hello);
    if (!participant) throw new AppError('NOT_PRESENT');
    const onRoom = (from: Peer) => this.#rooms.get(session.id)?.handleRoom(from);
    const room = this.#roomOf(session);
    const signInId = bearer.kind === 'technician' ? bearer.signInId : undefined;
    const peer: Peer = new Peer(socket, participant, onRoom, clock, signInId);
    peer.send({
      type: 'welcome',
      version: PROTOCOL_VERSION,
      sessionId: session.id,
      participantId: participant.id,
      seat: participant.seat,
      ownerEpoch: this.#options.ownerEpoch,
      nowMs: clock.wallMs(),
      commandWindow: COMMAND_WINDOW,
    });
    return { peer, room, lastSeq: hello.lastSeq };
  }

  #roomOf(session: OpenSession): Room {
    const known = this.#rooms.get(session.id);
    if (known) return known;
    const { book, log, background, graceMs, restartLateMs, clock, onChanged } = this.#options;
    const room: Room = new Room(session, {
      book,
      log,
      background,
      graceMs,
      restartLateMs,
      clock,
      onChanged,
      onEmpty: () => {
        if (this.#rooms.get(session.id) !== room || this.#isClosed) return;
        room.close('STOPPING');
        this.#drop(session.id);
      },
    });
    this.#rooms.set(session.id, room);
    this.#holds.set(session.id, book.hold(session.id));
    return room;
  }

  #drop(sessionId: string): void {
    this.#rooms.delete(sessionId);
    this.#holds.get(sessionId)?.();
    this.#holds.delete(sessionId);
  }
}
