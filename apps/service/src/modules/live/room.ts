import {
  decideTimePassed,
  isOver,
  isAwaited,
  nextLapseMs,
  partMay,
  presentParticipants,
  UNKNOWN_PART,
  type AnyPart,
  type PartAction,
} from '@porch/core';
import {
  AppError,
  decodeFrame,
  sealedChannelOf,
  type ClientMessage,
  type CustomerStep,
  type ErrorCode,
  type Frame,
  type ServerMessage,
  type Clock,
} from '@porch/wire';
import type { FastifyBaseLogger } from 'fastify';
import type { Background } from '../../module/background.ts';
import { refusalOf } from '../../refusal-of.ts';
import type { OpenSession } from '../../module/open-session.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import { DueWork } from './due-work.ts';
import { Graces } from './graces.ts';
import { mayPassBetween } from './may-pass.ts';
import type { Peer } from './peer.ts';
import { Pictures } from './pictures.ts';
import { rowsTold } from './rows-told.ts';

/** Rows in one message when somebody catches up. */
const ROWS_PER_MESSAGE = 100;

export interface RoomParts {
  readonly book: SessionBook;
  readonly log: FastifyBaseLogger;
  readonly background: Background;
  /** How long a participant whose line drops keeps their place, and what was granted. */
  readonly graceMs: () => number;
  /** How long nothing may be heard of a computer that was to come back. */
  readonly restartLateMs: () => number;
  readonly clock: Clock;
  onChanged(): void;
  /** Nobody is connected and nobody is expected back. */
  onEmpty(): void;
}

/** Everybody of one session who is connected here, and what passes between them. */
export class Room {
  readonly id: string;
  readonly #parts: RoomParts;
  readonly #peers = new Map<string, Peer>();
  readonly #steps = new Map<string, CustomerStep>();
  readonly #graces: Graces;
  readonly #due: DueWork;
  readonly #pictures: Pictures;
  #session: OpenSession;
  #endLapse: (() => void) | undefined;
  #isClosed = false;

  constructor(session: OpenSession, parts: RoomParts) {
    this.id = session.id;
    this.#session = session;
    this.#parts = parts;
    this.#pictures = new Pictures(
      parts.clock,
      () => this.#peers.values(),
      () => this.#session.state,
    );
    this.#graces = new Graces(parts.clock, parts.graceMs, (id) => this.#giveUp(id));
    this.#due = new DueWork({
      ...parts,
      sessionId: this.id,
      onDone: () => {
        this.#followGraces();
        this.#armLapse();
        this.#tellIfEmpty();
      },
    });
    this.#followGraces();
    this.#armLapse();
  }

  get hasTechnician(): boolean {
    return [...this.#peers.values()].some((peer) => peer.side === 'desk');
  }

  enter(peer: Peer, lastSeq: number): void {
    this.#peers.get(peer.participantId)?.close('REPLACED');
    this.#peers.set(peer.participantId, peer);
    this.#graces.takeOff(peer.participantId);
    peer.sentSeq = lastSeq;
    this.#catchUp(peer);
    peer.send({ type: 'caughtUp' });
    this.#tellPresence();
    this.#pictures.update();
  }

  leave(peer: Peer): void {
    if (this.#peers.get(peer.participantId) !== peer) return;
    this.#peers.delete(peer.participantId);
    this.#steps.delete(peer.participantId);
    this.#pictures.lost(peer);
    this.#followGraces();
    this.#tellPresence();
    this.#pictures.update();
    this.#parts.onChanged();
    this.#tellIfEmpty();
  }

  get signIns(): string[] {
    return [...this.#peers.values()].flatMap((peer) => peer.signInId ?? []);
  }

  /** A technician signed out, or was signed out: their connections end with it. */
  endSignIn(signInId: string): void {
    for (const peer of [...this.#peers.values()]) if (peer.signInId === signInId) peer.close('SIGN_IN_NEEDED');
  }

  /** New entries are in the records: everybody gets them, and what they change takes effect. */
  handleAppended(session: OpenSession): void {
    this.#session = session;
    for (const peer of [...this.#peers.values()]) this.#catchUp(peer);
    for (const peer of [...this.#peers.values()]) {
      const isGone = session.state.participants[peer.participantId]?.isGone ?? true;
      // Whoever led a session that ended may still log its outcome, and the customer may still say a word.
      if (isGone && !peer.isLate) peer.close('NOT_PRESENT');
    }
    this.#followGraces();
    this.#pictures.update();
    this.#armLapse();
    this.#tellIfEmpty();
  }

  handleAside(session: OpenSession): void {
    this.#session = session;
    for (const peer of this.#peers.values()) this.#tellAsides(peer);
  }

  async handleMessage(peer: Peer, message: Exclude<ClientMessage, { type: 'hello' }>): Promise<void> {
    // Their program connected anew meanwhile, and says it all again there.
    if (this.#peers.get(peer.participantId) !== peer) return;
    switch (message.type) {
      case 'beat':
        peer.send({ type: 'beat', sentAtMs: message.sentAtMs });
        break;
      case 'step':
        if (!this.#may(peer, 'speak for the customer')) throw new AppError('MESSAGE_INVALID');
        this.#steps.delete(peer.participantId);
        this.#steps.set(peer.participantId, message.step);
        this.#tellPresence();
        this.#parts.onChanged();
        break;
      case 'watch':
        this.#pictures.takeWatch(peer, message);
        break;
      case 'command':
        await this.#answer(peer, message.id, () =>
          this.#parts.book.command(this.id, peer.participantId, message.id, message.command),
        );
        break;
      case 'aside':
        await this.#answer(peer, message.id, async () => {
          const me = this.#session.state.participants[peer.participantId];
          if (!this.#may(peer, 'write an aside') || !me?.technicianId || me.isGone) throw new AppError('WRONG_ROLE');
          const aside = { technicianId: me.technicianId, name: me.name ?? '', text: message.text };
          await this.#parts.book.aside(this.id, peer.participantId, message.id, aside);
        });
        break;
    }
  }

  handleFrame(peer: Peer, bytes: Uint8Array): void {
    const frame = decodeFrame(bytes);
    if (frame.senderSeat !== peer.seat) throw new AppError('MESSAGE_INVALID');
    if (peer.takeLine(frame, bytes.byteLength)) return;
    if (frame.channel === 'screen' || frame.channel === 'cursor') this.#pictures.takeFrame(peer, frame, bytes);
    else this.#passSealed(frame, bytes, peer);
  }

  /** A participant's line can take more picture. */
  handleRoom(peer: Peer): void {
    this.#pictures.pump(peer);
  }

  close(why: ErrorCode): void {
    if (this.#isClosed) return;
    this.#isClosed = true;
    this.#endLapse?.();
    this.#due.close();
    this.#graces.close();
    for (const peer of this.#peers.values()) peer.close(why);
  }

  async #answer(peer: Peer, id: string, work: () => Promise<void>): Promise<void> {
    try {
      await work();
      peer.answer({ type: 'accepted', id });
    } catch (error) {
      const refusal = refusalOf(error);
      if (refusal.code === 'INTERNAL') this.#parts.log.error({ err: error, sessionId: this.id }, 'a command failed');
      peer.answer({ type: 'refused', id, code: refusal.code, message: refusal.message });
    }
  }

  /**
   * The second of three checks: the page offered it, the customer's side will insist; here it is not even passed on. What a
   * channel needs is looked up in its own line of the list.
   */
  #passSealed(frame: Frame, bytes: Uint8Array, from: Peer): void {
    const channel = sealedChannelOf(frame.channel);
    const to = [...this.#peers.values()].find((p) => p.seat === frame.receiverSeat);
    if (!channel || !to || to === from) return;
    const nowMs = this.#parts.clock.wallMs();
    const passage = { from, to, state: this.#session.state, nowMs, partOf: (peer: Peer) => this.#partOf(peer) };
    if (!mayPassBetween(channel, passage)) return;
    if (channel.line === 'bulk') to.sendBulk(bytes.slice());
    else if (channel.line === 'fresh') to.sendFresh(bytes.slice());
    else to.sendFrame(bytes);
  }

  #catchUp(peer: Peer): void {
    const told = rowsTold(this.#session, peer.participantId, peer.sentSeq);
    for (let at = 0; at < told.length; at += ROWS_PER_MESSAGE)
      peer.send({ type: 'entries', rows: told.slice(at, at + ROWS_PER_MESSAGE) });
    peer.sentSeq = Math.max(peer.sentSeq, this.#session.rows.length);
    this.#tellAsides(peer);
  }

  #tellAsides(peer: Peer): void {
    if (!this.#may(peer, "read the desk's own")) return;
    const asides = this.#session.asides.slice(peer.sentAsideSeq);
    if (asides.length) peer.send({ type: 'asides', asides });
    peer.sentAsideSeq = this.#session.asides.length;
  }

  #tellPresence(): void {
    const message: ServerMessage = {
      type: 'presence',
      participants: presentParticipants(this.#session.state).map((p) => {
        const step = this.#steps.get(p.id);
        return { participantId: p.id, isConnected: this.#peers.has(p.id), ...(step ? { step } : {}) };
      }),
    };
    for (const peer of this.#peers.values()) peer.send(message);
  }

  #partOf(peer: Peer): AnyPart {
    return this.#session.state.participants[peer.participantId]?.part ?? UNKNOWN_PART;
  }
  #may(peer: Peer, action: PartAction): boolean {
    return partMay(this.#partOf(peer), action);
  }

  /**
   * Whoever is in the session is connected here, or has a grace that runs: after a restart of the service, after a line
   * that dropped, and when a program said hello and died before it was let in.
   */
  #followGraces(): void {
    const { state } = this.#session;
    const expected = new Set(
      isOver(state)
        ? []
        : presentParticipants(state)
            .map((p) => p.id)
            .filter((id) => !this.#peers.has(id)),
    );
    this.#graces.expect(expected);
  }

  #giveUp(participantId: string): void {
    this.#due.act((session) => {
      const participant = session.state.participants[participantId];
      if (!participant || participant.isGone || isOver(session.state) || this.#peers.has(participantId)) return [];
      const { 'restart-and-return': restart } = session.state.slices;
      // A computer that was to come back keeps its place: that its line is gone is said, once.
      if (participantId === session.state.holderId && isAwaited(restart)) {
        const lateAtMs = Math.round(this.#parts.clock.wallMs() + this.#parts.restartLateMs());
        return restart.away ? [] : [{ type: 'restart-and-return/gone', by: 'service', lateAtMs }];
      }
      return [{ type: 'participantLeft', by: 'service', participantId, reason: 'the line was lost' }];
    });
  }

  #armLapse(): void {
    this.#endLapse?.();
    const atMs = nextLapseMs(this.#session.state, this.#parts.clock.wallMs());
    if (atMs === undefined || this.#isClosed) return;
    this.#endLapse = this.#parts.clock.after(Math.max(0, atMs - this.#parts.clock.wallMs()) + 20, () => {
      // A grant that has ended ends what was looked at by it, though nothing else happens.
      this.#pictures.update();
      this.#due.act((session, nowMs) => decideTimePassed(session.state, nowMs));
    });
  }

  #tellIfEmpty(): void {
    const isExpected = this.#graces.areAny && !isOver(this.#session.state);
    if (this.#peers.size === 0 && !isExpected && !this.#isClosed) this.#parts.onEmpty();
  }
}
