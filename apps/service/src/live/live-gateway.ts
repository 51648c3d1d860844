import {
  isOver,
  partOfTechnician,
  presentParticipants,
  refuse,
  REPLACED,
  type Decision,
  type RefusalCode,
  type SessionEvent,
  type SessionState,
} from '@porch/core';
import {
  AppError,
  COMMAND_WINDOW,
  errorCatalogue,
  HEARTBEAT_MS,
  HELLO_MS,
  helloBytes,
  isSignedBy,
  MAX_FRAME_BYTES,
  PROTOCOL_VERSION,
  SILENCE_MS,
  type ClientMessage,
  type ErrorCode,
  type ServerMessage,
  realClock,
} from '@porch/wire';
import { bytesToHex } from '@noble/hashes/utils.js';
import type { FastifyBaseLogger } from 'fastify';
import { randomBytes, randomUUID } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import type { Duplex } from 'node:stream';
import type { EntityManager } from 'typeorm';
import { WebSocketServer, type WebSocket } from 'ws';
import type { Background } from '../background.ts';
import { refusalOf } from '../refusal-of.ts';
import { boundDebts } from '../sockets/debts.ts';
import { Strangers } from '../sockets/strangers.ts';
import { refuseUpgrade } from '../sockets/upgrades.ts';
import type { OpenSession, SessionBook } from '../sessions/session-book.ts';
import type { Bearer, ConnectionPasses } from './connection-passes.ts';
import { parseText } from './parse-text.ts';
import { Peer } from './peer.ts';
import { Room } from './room.ts';

/** A session is a handful of people, each with a program or two. */
const MAX_PARTICIPANTS = 16;
/** On stopping, sockets get this long to close politely; so does one that was told to go. */
const CLOSE_MS = 1_000;
/** Closing for one of these: what else the socket sends is not even read. */
const hostileCodes: readonly ErrorCode[] = [
  'TOO_MANY_MESSAGES',
  'MESSAGE_INVALID',
  'MESSAGE_TOO_LARGE',
  'OUT_OF_ORDER',
  'SILENT',
];

type Hello = Extract<ClientMessage, { type: 'hello' }>;
type Told = Exclude<ClientMessage, { type: 'hello' }>;

/** Who is at the other end: nobody we know, somebody whose hello is being looked at, a participant, or nobody any longer. */
type Visitor =
  | { readonly name: 'stranger' }
  | { readonly name: 'admitting' }
  | { readonly name: 'in'; readonly peer: Peer; readonly room: Room }
  | { readonly name: 'done' };

export interface LiveGatewayOptions {
  readonly book: SessionBook;
  readonly connectionPasses: ConnectionPasses;
  readonly log: FastifyBaseLogger;
  readonly background: Background;
  readonly ownerEpoch: number;
  readonly graceMs: number;
  onChanged(): void;
  /** A customer's program is in: what it came with is theirs now. Runs in the transaction in which they come in. */
  entered(tx: EntityManager, passHash: Buffer, participantId: string): Promise<void>;
}

/** All live connections of this process: lets people in, and hands what they say to their session's room. */
export class LiveGateway {
  readonly #options: LiveGatewayOptions;
  readonly #server = new WebSocketServer({ noServer: true, maxPayload: MAX_FRAME_BYTES, perMessageDeflate: false });
  readonly #rooms = new Map<string, Room>();
  readonly #strangers = new Strangers();
  readonly #offs: (() => void)[];
  #isClosed = false;

  constructor(options: LiveGatewayOptions) {
    this.#options = options;
    const { book, log } = options;
    this.#offs = [
      book.onAppended(({ session }) => this.#rooms.get(session.id)?.handleAppended(session)),
      book.onAside((session) => this.#rooms.get(session.id)?.handleAside(session)),
      boundDebts(
        () => this.#server.clients,
        (bytes) => log.warn({ bytes }, 'a connection that read too little was cut'),
      ),
    ];
  }

  /** Sessions that somebody is connected to, or has a moment to come back to. */
  get openSessions(): string[] {
    return [...this.#rooms.keys()];
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
    const leave = this.#strangers.enter(address, () => socket.destroy());
    if (!leave) {
      refuseUpgrade(socket, 'too many');
      return;
    }
    socket.once('close', leave);
    this.#server.handleUpgrade(request, socket, head, (webSocket) => this.#meet(webSocket, leave));
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
    this.#rooms.delete(sessionId);
  }

  async close(): Promise<void> {
    if (this.#isClosed) return;
    this.#isClosed = true;
    this.#offs.forEach((off) => off());
    for (const room of this.#rooms.values()) room.close('STOPPING');
    for (const socket of this.#server.clients) socket.close(errorCatalogue.STOPPING.closeCode, 'STOPPING');
    const deadlineMs = performance.now() + CLOSE_MS;
    while (this.#server.clients.size && performance.now() < deadlineMs)
      await new Promise((resolve) => setTimeout(resolve, 20));
    for (const socket of this.#server.clients) socket.terminate();
    this.#server.close();
  }

  #meet(socket: WebSocket, leaveStrangers: () => void): void {
    const { log, background } = this.#options;
    const nonce = randomBytes(32).toString('hex');
    let visitor: Visitor = { name: 'stranger' };
    let heardAtMs = performance.now();
    let resume: ReturnType<typeof setTimeout> | undefined;
    // Messages of one participant are handled in the order in which they came, hello first.
    let work: Promise<void> = Promise.resolve();
    const fail = (error: unknown) => {
      if (visitor.name !== 'in') visitor = { name: 'done' };
      this.#closeFor(socket, error);
    };
    const helloTimer = setTimeout(() => fail(new AppError('SILENT')), HELLO_MS);
    const silence = setInterval(() => {
      if (performance.now() - heardAtMs > SILENCE_MS) socket.terminate();
    }, HEARTBEAT_MS);

    const takeHello = (hello: Hello) => {
      visitor = { name: 'admitting' };
      clearTimeout(helloTimer);
      leaveStrangers();
      work = this.#admit(hello, socket, nonce).then(({ peer, room, lastSeq }) => {
        // Gone while the records were slow: the room gives them the usual grace, and nothing else is left behind.
        if (socket.readyState !== socket.OPEN || visitor.name !== 'admitting') return;
        visitor = { name: 'in', peer, room };
        room.enter(peer, lastSeq);
        this.#options.onChanged();
      });
      work = work.catch(fail);
    };
    const takeTold = (peer: Peer, room: Room, message: Told) => {
      if (message.type === 'beat') {
        peer.send({ type: 'beat', sentAtMs: message.sentAtMs });
        return;
      }
      if (message.type === 'command' || message.type === 'aside') peer.countCommand();
      work = work
        .then(() => (socket.readyState === socket.OPEN ? room.handleMessage(peer, message) : undefined))
        .catch(fail);
    };
    const takeText = (data: Buffer) => {
      if (visitor.name === 'in') {
        const { peer, room } = visitor;
        const waitMs = peer.countMessage(false);
        if (waitMs > 0 && socket.readyState === socket.OPEN) {
          socket.pause();
          clearTimeout(resume);
          resume = setTimeout(() => socket.resume(), waitMs);
        }
        const parsed = parseText(data);
        if (parsed === 'later') return;
        else if (parsed.isRefused) {
          peer.countCommand();
          peer.answer({ type: 'refused', id: parsed.id, code: 'MESSAGE_INVALID', message: parsed.why });
        } else if (parsed.message.type === 'hello') throw new AppError('OUT_OF_ORDER');
        else takeTold(peer, room, parsed.message);
        return;
      }
      // Before that there is one thing to say, once.
      if (visitor.name === 'admitting') throw new AppError('OUT_OF_ORDER');
      const parsed = parseText(data);
      if (parsed === 'later' || parsed.isRefused || parsed.message.type !== 'hello') throw new AppError('OUT_OF_ORDER');
      takeHello(parsed.message);
    };

    socket.on('message', (data: Buffer, isBinary) => {
      // What comes behind a close is parsed no further.
      if (visitor.name === 'done' || socket.readyState !== socket.OPEN) return;
      heardAtMs = performance.now();
      try {
        if (!isBinary) takeText(data);
        else if (visitor.name !== 'in') throw new AppError('OUT_OF_ORDER');
        else {
          visitor.peer.countMessage(true);
          visitor.room.handleFrame(visitor.peer, data);
        }
      } catch (error) {
        fail(error);
      }
    });
    socket.on('error', (error: Error & { code?: string }) => {
      const tooLarge = error.code === 'WS_ERR_UNSUPPORTED_MESSAGE_LENGTH';
      log.info({ code: error.code, tooLarge }, 'a live connection broke');
    });
    socket.on('close', () => {
      leaveStrangers();
      clearTimeout(helloTimer);
      clearTimeout(resume);
      clearInterval(silence);
      background.run('leaving a session', () =>
        work.then(() => {
          const was = visitor;
          visitor = { name: 'done' };
          if (was.name === 'in') was.room.leave(was.peer);
        }),
      );
    });
    socket.send(JSON.stringify({ type: 'challenge', nonce } satisfies ServerMessage));
  }

  /** The one place where a failure becomes a close code. */
  #closeFor(socket: WebSocket, error: unknown): void {
    const code = refusalOf(error).code;
    if (code === 'INTERNAL') this.#options.log.error({ err: error }, 'a live connection failed');
    socket.close(errorCatalogue[code].closeCode, code);
    if (hostileCodes.includes(code)) socket.pause();
    const timer = setTimeout(() => socket.terminate(), CLOSE_MS);
    socket.once('close', () => clearTimeout(timer));
  }

  async #admit(hello: Hello, socket: WebSocket, nonce: string): Promise<{ peer: Peer; room: Room; lastSeq: number }> {
    if (hello.version !== PROTOCOL_VERSION) throw new AppError('PROTOCOL_VERSION');
    const { book, connectionPasses } = this.#options;
    const bearer = connectionPasses.redeem(hello.pass);
    const { signKey, agreeKey, startId } = hello;
    const said = { nonce, sessionId: bearer.sessionId, pass: hello.pass, signKey, agreeKey, startId };
    // Public keys stand in the ledger for all to read: only who has the secret half is the participant.
    if (!isSignedBy(signKey, helloBytes(said), hello.signature)) throw new AppError('HELLO_UNPROVEN');
    checkHead(await book.open(bearer.sessionId), hello);
    const session = await book.act(bearer.sessionId, async ({ state }, _nowMs, tx) => {
      const decision = admission(state, bearer, hello);
      const participantId = decision.participantId;
      if (bearer.kind === 'customer' && participantId) await this.#options.entered(tx, bearer.passHash, participantId);
      return decision.events;
    });
    const participant = withKeys(session.state, hello);
    if (!participant) throw new AppError('NOT_PRESENT');
    const onRoom = (from: Peer) => this.#rooms.get(session.id)?.handleRoom(from);
    const room = this.#roomOf(session);
    const signInId = bearer.kind === 'technician' ? bearer.signInId : undefined;
    const peer: Peer = new Peer(socket, participant, onRoom, signInId);
    peer.send({
      type: 'welcome',
      version: PROTOCOL_VERSION,
      sessionId: session.id,
      participantId: participant.id,
      seat: participant.seat,
      ownerEpoch: this.#options.ownerEpoch,
      nowMs: Date.now(),
      commandWindow: COMMAND_WINDOW,
    });
    return { peer, room, lastSeq: hello.lastSeq };
  }

  #roomOf(session: OpenSession): Room {
    const known = this.#rooms.get(session.id);
    if (known) return known;
    const { book, log, background, graceMs, onChanged } = this.#options;
    const room: Room = new Room(session, {
      book,
      log,
      background,
      graceMs,
      clock: realClock,
      onChanged,
      onEmpty: () => {
        if (this.#rooms.get(session.id) !== room || this.#isClosed) return;
        room.close('STOPPING');
        this.#rooms.delete(session.id);
      },
    });
    this.#rooms.set(session.id, room);
    return room;
  }
}

const withKeys = (state: SessionState, hello: Hello) =>
  Object.values(state.participants).find((p) => p.signKey === hello.signKey && p.agreeKey === hello.agreeKey);

function fits(state: SessionState, participantId: string, bearer: Bearer): boolean {
  const p = state.participants[participantId];
  return bearer.kind === 'technician' ? p?.technicianId === bearer.technicianId : p?.part === bearer.part;
}

/** Somebody who resumes must know the same history as we do; otherwise one of the two was rewritten. */
function checkHead(session: OpenSession, hello: Hello): void {
  if (hello.lastSeq === 0) return;
  const row = session.rows[hello.lastSeq - 1];
  if (!row || bytesToHex(row.hash) !== hello.lastHash) throw new AppError('OUT_OF_ORDER');
}

interface Admission {
  readonly participantId: string | undefined;
  readonly events: Decision<SessionEvent>;
}
const notIn = (code: RefusalCode): Admission => ({ participantId: undefined, events: refuse(code) });

/** Whether they may come in, and what happens by it. Who proved a participant's keys is that participant. */
function admission(state: SessionState, bearer: Bearer, hello: Hello): Admission {
  const known = withKeys(state, hello);
  if (!known) return joining(state, bearer, hello);
  if (known.isReplaced) return notIn('REPLACED');
  // A technician who is out stays out. The customer's side comes back to deliver what it decided meanwhile.
  const mayResume = fits(state, known.id, bearer) && (!known.isGone || known.part === 'doorstep');
  if (!mayResume || known.pastStarts.includes(hello.startId)) return notIn('NOT_PRESENT');
  const started: SessionEvent[] =
    known.startId === hello.startId || known.isGone
      ? []
      : [{ type: 'programStarted', by: known.id, participantId: known.id, startId: hello.startId }];
  return { participantId: known.id, events: started };
}

function joining(state: SessionState, bearer: Bearer, hello: Hello): Admission {
  if (presentParticipants(state).length >= MAX_PARTICIPANTS) return notIn('SESSION_FULL');
  const isKeyTaken = Object.values(state.participants).some(
    (p) => p.signKey === hello.signKey || p.agreeKey === hello.agreeKey,
  );
  if (isKeyTaken) return notIn('NOT_PRESENT');
  const part = bearer.kind === 'technician' ? partOfTechnician(state, bearer.technicianId) : bearer.part;
  if (!part) return notIn('NOT_PRESENT');
  if (isOver(state) && part === 'doorstep') return notIn('SESSION_ENDED');
  const participantId = randomUUID();
  const holder = state.holderId ? state.participants[state.holderId] : undefined;
  // Of two Doorsteps the technician says which one it is to be; until then the one that is there stays.
  const isCandidate = part === 'doorstep' && holder?.part === 'doorstep';
  // The same person with a program that started again, or from somewhere else: the newer one counts.
  const older = presentParticipants(state).filter((p) =>
    bearer.kind === 'technician'
      ? p.technicianId === bearer.technicianId
      : p.part === bearer.part && p.id !== (isCandidate ? holder.id : undefined),
  );
  const seats = Object.values(state.participants).map((p) => p.seat);
  const events: SessionEvent[] = older.map((p) => ({
    type: 'participantLeft',
    by: 'service',
    participantId: p.id,
    reason: REPLACED,
  }));
  events.push({
    type: 'participantJoined',
    by: participantId,
    participantId,
    seat: Math.max(0, ...seats) + 1,
    role: bearer.kind === 'technician' ? 'technician' : part === 'doorstep' ? 'doorstep' : 'customer-page',
    part,
    ...(bearer.kind === 'technician' ? { technicianId: bearer.technicianId } : {}),
    signKey: hello.signKey,
    agreeKey: hello.agreeKey,
    startId: hello.startId,
    ...(bearer.kind === 'customer' && bearer.proof ? { proof: bearer.proof } : {}),
    way: bearer.kind === 'technician' ? 'sign-in' : bearer.way,
    ...(hello.cannot === undefined ? {} : { cannot: hello.cannot }),
    ...(hello.can === undefined ? {} : { can: hello.can }),
    ...(hello.abilities === undefined ? {} : { abilities: hello.abilities }),
    personal: {
      // Who the customer is stands where not everybody reads it.
      name: bearer.kind === 'technician' ? bearer.name : 'The customer',
      ...(hello.computer === undefined ? {} : { computer: hello.computer }),
    },
  });
  if (isCandidate) events.push({ type: 'changeOverWanted', by: participantId, participantId });
  return { participantId, events };
}
