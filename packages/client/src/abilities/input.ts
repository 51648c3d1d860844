import { consentHolderOf } from '@porch/core';
import { inputChannel, type InputAct, type InputMessage } from '@porch/wire';
import { Listeners } from '../listeners.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { SealedLine } from '../sealed-line.ts';

export type LeaseState =
  | { name: 'closed'; why: string }
  | { name: 'opening' }
  | { name: 'open'; lease: string; nextNumber: number }
  | { name: 'paused'; lease: string; nextNumber: number; why: string };

/** The picture that input is aimed at: what is shown of which display. */
export interface PictureAim {
  readonly update: number;
  readonly display: number;
  readonly generation: number;
}

/** Doorstep gives a lease up when nothing renews it for this long. */
export const LEASE_SILENCE_MS = 3_000;
const RENEW_MS = 1_000;

/**
 * The technician's side of an input lease. Acts are sealed for Doorstep alone and numbered without gaps; what is done
 * while no lease is open is not sent, and never sent later.
 */
export class InputLease {
  readonly listeners = new Listeners<{ state: LeaseState; dropped: string }>();
  readonly #connection: LiveConnection;
  readonly #aim: () => PictureAim;
  readonly #offs: (() => void)[] = [];
  readonly #line: SealedLine<InputMessage>;
  #state: LeaseState = { name: 'closed', why: 'not opened yet' };
  #endPause: () => void = () => undefined;

  constructor(connection: LiveConnection, aim: () => PictureAim) {
    this.#connection = connection;
    this.#line = new SealedLine(connection, inputChannel);
    this.#aim = aim;
    this.#offs.push(
      this.#line.listen(
        ({ message }) => this.#take(message),
        (from) => from.id === connection.state.holderId,
      ),
      connection.on('status', (status) => {
        if (status !== 'live') this.#move({ name: 'closed', why: 'the line is gone' });
      }),
      connection.clock.every(RENEW_MS, () => {
        this.keep();
      }),
    );
  }

  get state(): LeaseState {
    return this.#state;
  }

  open(): void {
    if (this.#state.name !== 'closed') return;
    this.#move({ name: 'opening' });
    this.#send({ type: 'openLease' });
  }

  /** False when it could not be sent: no lease, or the person at the desktop is busy with their own mouse. */
  act(act: InputAct): boolean {
    if (this.#state.name !== 'open') return false;
    const { update, display, generation } = this.#aim();
    const { lease, nextNumber } = this.#state;
    this.#state = { name: 'open', lease, nextNumber: nextNumber + 1 };
    this.#send({ type: 'input', lease, number: nextNumber, aimedAtUpdate: update, act }, display, generation);
    return true;
  }

  /** Says that somebody is still here; done by itself once a second, as long as the clock goes. */
  keep(): void {
    if (this.#state.name === 'open' || this.#state.name === 'paused')
      this.#send({ type: 'keepLease', lease: this.#state.lease });
  }

  release(): void {
    if (this.#state.name === 'open' || this.#state.name === 'paused')
      this.#send({ type: 'closeLease', lease: this.#state.lease });
    this.#move({ name: 'closed', why: 'given up' });
  }

  close(): void {
    this.release();
    this.#endPause();
    this.#offs.forEach((off) => off());
    this.listeners.clear();
  }

  #move(state: LeaseState): void {
    this.#state = state;
    this.listeners.emit('state', state);
  }

  #send(message: InputMessage, display = 0, generation = 0): void {
    const holder = consentHolderOf(this.#connection.state);
    if (!holder || !this.#line.send(holder.seat, message, display, generation))
      this.#move({ name: 'closed', why: 'Doorstep cannot be reached' });
  }

  #take(message: InputMessage): void {
    const state = this.#state;
    if (message.type === 'leaseOpened') this.#move({ name: 'open', lease: message.lease, nextNumber: 1 });
    else if (message.type === 'leaseClosed') this.#move({ name: 'closed', why: message.why });
    else if (message.type === 'inputDropped') this.listeners.emit('dropped', message.why);
    else if (message.type === 'inputPaused' && (state.name === 'open' || state.name === 'paused')) {
      this.#move({ name: 'paused', lease: state.lease, nextNumber: state.nextNumber, why: message.why });
      this.#endPause();
      this.#endPause = this.#connection.clock.after(message.forMs, () => {
        if (this.#state.name === 'paused')
          this.#move({ name: 'open', lease: this.#state.lease, nextNumber: this.#state.nextNumber });
      });
    }
  }
}
