import { isOver, presentParticipants, refuse, type SessionEvent, type SessionState } from '@porch/core';
import {
  AppError,
  ClientMessage,
  errorCatalogue,
  HEARTBEAT_MS,
  HELLO_MS,
  MAX_FRAME_BYTES,
  MAX_TEXT_BYTES,
  PROTOCOL_VERSION,
  SILENCE_MS,
  type ErrorCode,
} from '@porch/wire';
import { bytesToHex } from '@noble/hashes/utils.js';
import type { FastifyBaseLogger } from 'fastify';
import { randomUUID } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import type { Duplex } from 'node:stream';
import { WebSocketServer, type WebSocket } from 'ws';
import type { OpenSession, SessionBook } from '../sessions/session-book.ts';
import type { Bearer, ConnectionTickets } from './connection-tickets.ts';
import { Peer } from './peer.ts';
import { Room } from './room.ts';

/** Sockets that have not said hello yet; more are turned away before they cost anything. */
const MAX_STRANGERS = 500;
/** A session is a handful of people, each with a program or two. */
const MAX_PARTICIPANTS = 16;
/** On stopping, sockets get this long to close politely. */
const CLOSE_MS = 1_000;

type Hello = Extract<ClientMessage, { type: 'hello' }>;

/** All live connections of this process: lets people in, and hands what they say to their session's room. */
export class LiveGateway {
  readonly #book: SessionBook;
  readonly #tickets: ConnectionTickets;
  readonly #log: FastifyBaseLogger;
  readonly #ownerEpoch: number;
  readonly #onChanged: () => void;
  readonly #graceMs: number;
  readonly #server = new WebSocketServer({ noServer: true, maxPayload: MAX_FRAME_BYTES, perMessageDeflate: false });
  readonly #rooms = new Map<string, Room>();
  readonly #offs: (() => void)[];
  #strangers = 0;
  #isClosed = false;

  constructor(options: {
    book: SessionBook;
    tickets: ConnectionTickets;
    log: FastifyBaseLogger;
    ownerEpoch: number;
    onChanged: () => void;
    graceMs: number;
  }) {
    this.#book = options.book;
    this.#tickets = options.tickets;
    this.#log = options.log;
    this.#ownerEpoch = options.ownerEpoch;
    this.#onChanged = options.onChanged;
    this.#graceMs = options.graceMs;
    this.#offs = [
      this.#book.onAppended(({ session }) => this.#rooms.get(session.id)?.handleAppended(session)),
      this.#book.onAside((session) => this.#rooms.get(session.id)?.handleAside(session)),
    ];
  }

  handleUpgrade(request: IncomingMessage, socket: Duplex, head: Buffer): void {
    if (this.#isClosed || this.#strangers >= MAX_STRANGERS) {
      socket.end('HTTP/1.1 503 Service Unavailable\r\nConnection: close\r\n\r\n');
      return;
    }
    this.#server.handleUpgrade(request, socket, head, (webSocket) => this.#meet(webSocket));
  }

  /** Sessions that were under way when the service stopped: their people are coming back. */
  async reopen(ids: readonly string[]): Promise<void> {
    for (const id of ids) this.#roomOf(await this.#book.open(id));
  }

  async close(): Promise<void> {
    if (this.#isClosed) return;
    this.#isClosed = true;
    this.#offs.forEach((off) => off());
    for (const room of this.#rooms.values()) room.close();
    const deadline = Date.now() + CLOSE_MS;
    while (this.#server.clients.size && Date.now() < deadline) await new Promise((resolve) => setTimeout(resolve, 20));
    for (const socket of this.#server.clients) socket.terminate();
    this.#server.close();
  }

  #meet(socket: WebSocket): void {
    this.#strangers++;
    let isStranger = true;
    let peer: Peer | undefined;
    let room: Room | undefined;
    let heardAtMs = Date.now();
    // Messages of one participant are handled in the order in which they came, hello first.
    let work: Promise<void> = Promise.resolve();
    const known = () => {
      if (isStranger) this.#strangers--;
      isStranger = false;
    };
    const helloTimer = setTimeout(() => socket.close(errorCatalogue.SILENT.closeCode, 'SILENT'), HELLO_MS);
    const silence = setInterval(() => {
      if (Date.now() - heardAtMs > SILENCE_MS) socket.terminate();
    }, HEARTBEAT_MS);

    socket.on('message', (data: Buffer, isBinary) => {
      heardAtMs = Date.now();
      try {
        if (isBinary) {
          if (!peer || !room) throw new AppError('OUT_OF_ORDER');
          peer.countMessage(true);
          room.handleFrame(peer, data);
          return;
        }
        peer?.countMessage(false);
        const message = parseText(data);
        if (message.type === 'hello') {
          if (!isStranger) throw new AppError('OUT_OF_ORDER');
          known();
          clearTimeout(helloTimer);
          work = work.then(async () => {
            const admitted = await this.#admit(message, socket);
            if (socket.readyState !== socket.OPEN) return;
            ({ peer, room } = admitted);
            room.enter(peer, message.lastSeq);
            this.#onChanged();
          });
        } else {
          if (isStranger) throw new AppError('OUT_OF_ORDER');
          if (message.type === 'beat' && peer && room) {
            void room.handleMessage(peer, message);
            return;
          }
          work = work.then(async () => {
            if (peer && room) await room.handleMessage(peer, message);
          });
        }
        work = work.catch((error: unknown) => this.#closeFor(socket, error));
      } catch (error) {
        this.#closeFor(socket, error);
      }
    });
    socket.on('error', (error: Error & { code?: string }) => {
      const tooLarge = error.code === 'WS_ERR_UNSUPPORTED_MESSAGE_LENGTH';
      this.#log.info({ why: error.message, tooLarge }, 'a live connection broke');
    });
    socket.on('close', () => {
      known();
      clearTimeout(helloTimer);
      clearInterval(silence);
      void work.then(() => {
        if (peer && room) room.leave(peer);
        if (room?.isEmpty && !this.#isClosed) {
          room.close();
          this.#rooms.delete(room.id);
        }
      });
    });
  }

  /** The one place where a failure becomes a close code. */
  #closeFor(socket: WebSocket, error: unknown): void {
    const code: ErrorCode = error instanceof AppError ? error.code : 'INTERNAL';
    if (code === 'INTERNAL') this.#log.error({ err: error }, 'a live connection failed');
    socket.close(errorCatalogue[code].closeCode, code);
  }

  async #admit(hello: Hello, socket: WebSocket): Promise<{ peer: Peer; room: Room }> {
    if (hello.version !== PROTOCOL_VERSION) throw new AppError('PROTOCOL_VERSION');
    const bearer = this.#tickets.redeem(hello.ticket);
    const before = await this.#book.open(bearer.sessionId);
    checkHead(before, hello);
    const session = await this.#book.act(bearer.sessionId, (open) => {
      const resumed = sameStart(open.state, hello);
      if (!resumed) return joinEvents(open.state, bearer, hello);
      // A technician who is out stays out. The customer's side comes back to deliver what it decided meanwhile.
      const mayResume = fits(open.state, resumed.id, bearer) && (!resumed.isGone || resumed.role === 'doorstep');
      return mayResume ? [] : refuse('NOT_PRESENT');
    });
    const participant = sameStart(session.state, hello);
    if (!participant) throw new AppError('NOT_PRESENT');
    const onRoom = (from: Peer) => this.#rooms.get(session.id)?.handleRoom(from);
    const peer: Peer = new Peer(socket, participant, onRoom);
    peer.send({
      type: 'welcome',
      version: PROTOCOL_VERSION,
      sessionId: session.id,
      participantId: participant.id,
      seat: participant.seat,
      role: participant.role,
      ownerEpoch: this.#ownerEpoch,
      nowMs: Date.now(),
    });
    return { peer, room: this.#roomOf(session) };
  }

  #roomOf(session: OpenSession): Room {
    const known = this.#rooms.get(session.id);
    if (known) return known;
    const room = new Room(session, this.#book, this.#log, this.#onChanged, this.#graceMs);
    this.#rooms.set(session.id, room);
    return room;
  }
}

function parseText(data: Buffer): ClientMessage {
  if (data.byteLength > MAX_TEXT_BYTES) throw new AppError('MESSAGE_TOO_LARGE');
  try {
    return ClientMessage.parse(JSON.parse(data.toString('utf8')));
  } catch (cause) {
    throw new AppError('MESSAGE_INVALID', {}, { cause });
  }
}

const sameStart = (state: SessionState, hello: Hello) =>
  Object.values(state.participants).find((p) => p.signKey === hello.signKey && p.agreeKey === hello.agreeKey);

function fits(state: SessionState, participantId: string, bearer: Bearer): boolean {
  const p = state.participants[participantId];
  return bearer.kind === 'technician' ? p?.technicianId === bearer.technicianId : p?.role === bearer.role;
}

/** Somebody who resumes must know the same history as we do; otherwise one of the two was rewritten. */
function checkHead(session: OpenSession, hello: Hello): void {
  if (hello.lastSeq === 0) return;
  const row = session.rows[hello.lastSeq - 1];
  if (!row || bytesToHex(row.hash) !== hello.lastHash) throw new AppError('OUT_OF_ORDER');
}

function joinEvents(state: SessionState, bearer: Bearer, hello: Hello) {
  if (presentParticipants(state).length >= MAX_PARTICIPANTS) return refuse('SESSION_FULL');
  const isKeyTaken = Object.values(state.participants).some(
    (p) => p.signKey === hello.signKey || p.agreeKey === hello.agreeKey,
  );
  if (isKeyTaken) return refuse('NOT_PRESENT');
  if (bearer.kind === 'technician') {
    const isTakingOver = state.handover?.stage === 'accepted' && state.handover.toTechnicianId === bearer.technicianId;
    if (state.technicianId !== bearer.technicianId && !isTakingOver) return refuse('NOT_PRESENT');
  } else if (isOver(state) && bearer.role === 'doorstep') return refuse('SESSION_ENDED');
  const participantId = randomUUID();
  // The same person with a program that started again, or from somewhere else: the newer one counts.
  const older = presentParticipants(state).filter((p) =>
    bearer.kind === 'technician' ? p.technicianId === bearer.technicianId : p.role === bearer.role,
  );
  const seats = Object.values(state.participants).map((p) => p.seat);
  const events: SessionEvent[] = older.map((p) => ({
    type: 'participantLeft',
    by: 'service',
    participantId: p.id,
    reason: 'started again elsewhere',
  }));
  events.push({
    type: 'participantJoined',
    by: participantId,
    participantId,
    seat: Math.max(0, ...seats) + 1,
    role: bearer.kind === 'technician' ? 'technician' : bearer.role,
    ...(bearer.kind === 'technician' ? { technicianId: bearer.technicianId } : {}),
    signKey: hello.signKey,
    agreeKey: hello.agreeKey,
    way: bearer.kind === 'technician' ? 'sign-in' : bearer.way,
    ...(hello.cannot === undefined ? {} : { cannot: hello.cannot }),
    personal: {
      name: bearer.kind === 'technician' ? bearer.name : (state.customerName ?? 'The customer'),
      ...(hello.computer === undefined ? {} : { computer: hello.computer }),
    },
  });
  return events;
}
