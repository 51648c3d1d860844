import { decideTimePassed, isEffective, isOver, nextLapseMs, presentParticipants, standingOf } from '@porch/core';
import {
  AppError,
  decodeFrame,
  encodeLedgerRow,
  type ClientMessage,
  type CustomerStep,
  type Frame,
  type ServerMessage,
} from '@porch/wire';
import type { FastifyBaseLogger } from 'fastify';
import type { OpenSession, SessionBook } from '../sessions/session-book.ts';
import type { Peer } from './peer.ts';
import { PictureRelay, rowsOf } from './picture-relay.ts';

/** Rows in one message when somebody catches up. */
const ROWS_PER_MESSAGE = 100;
/** setTimeout takes no more. */
const MAX_TIMER_MS = 2 ** 31 - 1;

/** Everybody of one session who is connected here, and what passes between them. */
export class Room {
  readonly id: string;
  readonly #book: SessionBook;
  readonly #log: FastifyBaseLogger;
  readonly #peers = new Map<string, Peer>();
  readonly #steps = new Map<string, CustomerStep>();
  readonly #graces = new Map<string, ReturnType<typeof setTimeout>>();
  readonly #relay = new PictureRelay();
  #session: OpenSession;
  #lapse: ReturnType<typeof setTimeout> | undefined;
  #viewerKey = '';
  #toldSource: Peer | undefined;
  #isClosed = false;
  readonly #graceMs: number;
  readonly #onChanged: () => void;

  /** `graceMs`: how long a participant whose line drops keeps their place, and what was granted. */
  constructor(session: OpenSession, book: SessionBook, log: FastifyBaseLogger, onChanged: () => void, graceMs: number) {
    this.id = session.id;
    this.#session = session;
    this.#book = book;
    this.#log = log;
    this.#onChanged = onChanged;
    this.#graceMs = graceMs;
    // After a restart of the service nobody is connected yet: each has the usual grace to come back.
    for (const participant of presentParticipants(session.state)) this.#startGrace(participant.id);
    this.#armLapse();
  }

  get isEmpty(): boolean {
    return this.#peers.size === 0 && (isOver(this.#session.state) || this.#graces.size === 0);
  }

  enter(peer: Peer, lastSeq: number): void {
    this.#peers.get(peer.participantId)?.close('REPLACED');
    this.#peers.set(peer.participantId, peer);
    clearTimeout(this.#graces.get(peer.participantId));
    this.#graces.delete(peer.participantId);
    peer.sentSeq = lastSeq;
    this.#catchUp(peer);
    peer.send({ type: 'caughtUp' });
    this.#tellPresence();
    this.#updateViewers();
  }

  leave(peer: Peer): void {
    if (this.#peers.get(peer.participantId) !== peer) return;
    this.#peers.delete(peer.participantId);
    this.#steps.delete(peer.participantId);
    if (this.#session.state.holderId === peer.participantId) this.#relay.sourceLost();
    const participant = this.#session.state.participants[peer.participantId];
    if (participant && !participant.isGone && !isOver(this.#session.state)) this.#startGrace(peer.participantId);
    this.#tellPresence();
    this.#updateViewers();
    this.#onChanged();
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
    for (const id of [...this.#graces.keys()])
      if ((session.state.participants[id]?.isGone ?? true) || isOver(session.state)) {
        clearTimeout(this.#graces.get(id));
        this.#graces.delete(id);
      }
    this.#updateViewers();
    this.#armLapse();
  }

  handleAside(session: OpenSession): void {
    this.#session = session;
    for (const peer of this.#peers.values()) this.#tellAsides(peer);
  }

  async handleMessage(peer: Peer, message: Exclude<ClientMessage, { type: 'hello' }>): Promise<void> {
    switch (message.type) {
      case 'beat':
        peer.send({ type: 'beat', sentAtMs: message.sentAtMs });
        break;
      case 'step':
        if (peer.role === 'technician') throw new AppError('MESSAGE_INVALID');
        this.#steps.delete(peer.participantId);
        this.#steps.set(peer.participantId, message.step);
        this.#tellPresence();
        this.#onChanged();
        break;
      case 'watch':
        if (peer.role !== 'technician') throw new AppError('MESSAGE_INVALID');
        if (message.isOn) peer.watched.add(message.display);
        else peer.watched.delete(message.display);
        this.#updateViewers();
        break;
      case 'command':
        await this.#answer(peer, message.id, () =>
          this.#book.command(this.id, peer.participantId, message.id, message.command),
        );
        break;
      case 'aside':
        await this.#answer(peer, message.id, async () => {
          const me = this.#session.state.participants[peer.participantId];
          if (peer.role !== 'technician' || !me?.technicianId || me.isGone) throw new AppError('WRONG_ROLE');
          await this.#book.aside(this.id, { technicianId: me.technicianId, name: me.name ?? '', text: message.text });
        });
        break;
    }
  }

  handleFrame(peer: Peer, bytes: Uint8Array): void {
    const frame = decodeFrame(bytes);
    if (frame.senderSeat !== peer.seat) throw new AppError('MESSAGE_INVALID');
    if (peer.takeLine(frame, bytes.byteLength)) return;
    if (frame.channel === 'screen' || frame.channel === 'cursor') {
      if (peer.role === 'technician') this.#relay.takeFromViewer(frame, peer);
      // What a page still had on its way when Doorstep came is nobody's any longer.
      else if (this.#session.state.holderId === peer.participantId) this.#relay.takeFromSource(frame, bytes);
    } else this.#passSealed(frame, bytes, peer);
  }

  /** A participant's line can take more picture. */
  handleRoom(peer: Peer): void {
    if (peer.role === 'technician') this.#relay.pump(peer);
  }

  close(): void {
    if (this.#isClosed) return;
    this.#isClosed = true;
    clearTimeout(this.#lapse);
    for (const timer of this.#graces.values()) clearTimeout(timer);
    for (const peer of this.#peers.values()) peer.close('STOPPING');
  }

  async #answer(peer: Peer, id: string, work: () => Promise<void>): Promise<void> {
    try {
      await work();
      peer.send({ type: 'accepted', id });
    } catch (error) {
      if (!(error instanceof AppError)) this.#log.error({ err: error, sessionId: this.id }, 'a command failed');
      const refusal = error instanceof AppError ? error : new AppError('INTERNAL');
      peer.send({ type: 'refused', id, code: refusal.code, message: refusal.message });
    }
  }

  /** The second of three checks: the page offered it, Doorstep will insist; here it is not even passed on. */
  #passSealed(frame: Frame, bytes: Uint8Array, from: Peer): void {
    const to = [...this.#peers.values()].find((p) => p.seat === frame.receiverSeat);
    if (!to || (from.role === 'technician') === (to.role === 'technician')) return;
    const technician = from.role === 'technician' ? from : to;
    const may = (permission: Parameters<typeof standingOf>[2]) =>
      isEffective(standingOf(this.#session.state, technician.participantId, permission), Date.now());
    if (frame.channel === 'input') {
      const customerSide = from.role === 'technician' ? to : from;
      if (customerSide.role !== 'doorstep' || (from.role === 'technician' && !may('control-input'))) return;
    } else if (frame.channel === 'look') {
      // At the door of a device the second secret is proven before anything is allowed.
      const { deviceId, hasAccepted } = this.#session.state;
      if (!may('view-screen') && !(deviceId !== undefined && !hasAccepted)) return;
    } else if (!may('give-files') && !may('fetch-files')) return;
    if (frame.channel === 'file') to.sendBulk(bytes.slice());
    else to.sendFrame(bytes);
  }

  #catchUp(peer: Peer): void {
    const rows = this.#session.rows.slice(peer.sentSeq);
    for (let at = 0; at < rows.length; at += ROWS_PER_MESSAGE)
      peer.send({ type: 'entries', rows: rows.slice(at, at + ROWS_PER_MESSAGE).map(encodeLedgerRow) });
    peer.sentSeq = Math.max(peer.sentSeq, this.#session.rows.length);
    this.#tellAsides(peer);
  }

  #tellAsides(peer: Peer): void {
    if (peer.role !== 'technician') return;
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

  #updateViewers(): void {
    const { state } = this.#session;
    const nowMs = Date.now();
    const viewers = [...this.#peers.values()]
      .filter(
        (p) =>
          p.role === 'technician' &&
          p.watched.size > 0 &&
          isEffective(standingOf(state, p.participantId, 'view-screen'), nowMs),
      )
      .map((peer) => ({ peer, displays: [...peer.watched].sort((a, b) => a - b) }));
    const source = state.holderId ? this.#peers.get(state.holderId) : undefined;
    const rows = rowsOf(viewers);
    const key = JSON.stringify(rows);
    if (source && (key !== this.#viewerKey || source !== this.#toldSource))
      source.send({ type: 'viewers', viewers: rows });
    this.#viewerKey = key;
    this.#toldSource = source;
    this.#relay.setViewers(viewers, source);
  }

  #startGrace(participantId: string): void {
    clearTimeout(this.#graces.get(participantId));
    this.#graces.set(
      participantId,
      setTimeout(() => {
        this.#graces.delete(participantId);
        this.#actLater((session) => {
          const participant = session.state.participants[participantId];
          if (!participant || participant.isGone || isOver(session.state)) return [];
          return [{ type: 'participantLeft', by: 'service', participantId, reason: 'the line was lost' }];
        });
      }, this.#graceMs),
    );
  }

  #armLapse(): void {
    clearTimeout(this.#lapse);
    const atMs = nextLapseMs(this.#session.state);
    if (atMs === undefined) return;
    const waitMs = Math.min(MAX_TIMER_MS, Math.max(0, atMs - Date.now()) + 20);
    this.#lapse = setTimeout(() => this.#actLater((session, nowMs) => decideTimePassed(session.state, nowMs)), waitMs);
  }

  #actLater(decide: Parameters<SessionBook['act']>[1]): void {
    if (this.#isClosed) return;
    this.#book.act(this.id, decide).then(
      () => this.#armLapse(),
      (error: unknown) => this.#log.error({ err: error, sessionId: this.id }, 'what was due could not be written'),
    );
  }
}
