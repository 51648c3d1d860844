import type { LiveConnection } from '@porch/client';
import { LEASE_SILENCE_MS, SealedChannels, unlessUnreadable } from '@porch/client';
import type { Participant } from '@porch/core';
import type { Rect } from '@porch/screen';
import { decodeInputMessage, encodeSealedJson, type InputAct, type InputMessage } from '@porch/wire';
import { randomBytes } from 'node:crypto';
import type { Logger } from 'pino';
import type { ConsentHolder } from '../consent/consent-holder.ts';
import type { GrantBook } from '@porch/client';
import type { Desktop } from '../desktop/desktop.ts';

/** The person at the desktop always wins: after their own input the technician's waits this long. */
export const LOCAL_PAUSE_MS = 1_000;
/** Input aimed at a picture that had changed this long ago would hit something else. */
const STALE_PICTURE_MS = 2_000;
/** Input that waited this long, for the desktop or for us, is not done any longer: nobody expects it by then. */
const STALE_INPUT_MS = 2_000;
/** Moves that wait while a key is being typed; the newest counts. */
const MAX_WAITING_ACTS = 256;

interface Lease {
  readonly id: string;
  readonly technicianId: string;
  readonly seat: number;
  readonly signKey: string;
  readonly startId: string;
  lastNumber: number;
  heardAtMs: number;
  clicks: number;
  keys: number;
  waiting: number;
}

export interface LeaseParts {
  readonly connection: LiveConnection;
  readonly desktop: Desktop;
  readonly grants: GrantBook;
  readonly holder: ConsentHolder;
  readonly log: Logger;
  /**
   * A display that is shared: where it lies, its generation, and when the picture of an update was replaced by a newer
   * one, by this computer's clock (undefined while it is the newest).
   */
  aim(
    display: number,
  ): { generation: number; monitor: Rect; replacedAtMs(update: number): number | undefined } | undefined;
  /** Why nobody may press anything just now, whatever was allowed; undefined while that is not so. */
  whyHeld(signKey: string): string | undefined;
  onChanged(): void;
}

/**
 * Opens a lease for a technician whose key holds the permission, and works the desktop with what comes in it: sealed by
 * that key alone, numbered without gaps, aimed at what is really shown. The end of a lease, for whatever reason, lets go
 * of every key and button.
 */
export class LeaseKeeper {
  readonly #parts: LeaseParts;
  readonly #channels: SealedChannels;
  readonly #offs: (() => void)[];
  readonly #timer: ReturnType<typeof setInterval>;
  #lease: Lease | undefined;
  #pausedUntilMs = 0;
  #acts: Promise<void> = Promise.resolve();

  constructor(parts: LeaseParts) {
    this.#parts = parts;
    const { connection, desktop } = parts;
    this.#channels = new SealedChannels(connection, 'input');
    this.#offs = [
      connection.on('frame', ({ frame, bytes }) => {
        if (frame.channel === 'input') this.#handleSealed(frame.senderSeat, bytes);
      }),
      connection.on('status', (status) => {
        if (status !== 'live') this.end('the line is gone');
      }),
      desktop.onLocalInput(() => this.#pause()),
    ];
    this.#timer = setInterval(() => this.check(), 250);
  }

  get isOpen(): boolean {
    return this.#lease !== undefined;
  }

  /** Ends the lease if what it rests on is gone. Called at every change of what is allowed. */
  check(): void {
    const lease = this.#lease;
    if (!lease) return;
    if (!this.#parts.grants.holds('control-input', lease.signKey, this.#parts.connection.serviceNowMs))
      this.end('it is not allowed any longer');
    else if (this.#parts.whyHeld(lease.signKey) !== undefined) this.end(this.#parts.whyHeld(lease.signKey) ?? '');
    else if (this.#technicianAt(lease.seat)?.startId !== lease.startId) this.end('their program started again');
    else if (performance.now() - lease.heardAtMs > LEASE_SILENCE_MS) this.end('nothing was heard from the technician');
    else if (this.#parts.holder.isPromptOpen) this.#parts.desktop.releaseAll();
  }

  end(why: string): void {
    const lease = this.#lease;
    if (!lease) return;
    this.#lease = undefined;
    this.#parts.desktop.releaseAll();
    this.#tell(lease.seat, { type: 'leaseClosed', lease: lease.id, why });
    const { technicianId: participantId, clicks, keys } = lease;
    this.#parts.holder.report((fact) => ({ type: 'stopControl', participantId, why, clicks, keys, fact }));
    this.#parts.onChanged();
  }

  close(): void {
    this.end('Doorstep closed');
    clearInterval(this.#timer);
    this.#offs.forEach((off) => off());
  }

  #technicianAt(seat: number): Participant | undefined {
    return Object.values(this.#parts.connection.state.participants).find(
      (p) => p.seat === seat && p.role === 'technician' && !p.isGone,
    );
  }

  #tell(seat: number, message: InputMessage): void {
    const technician = this.#technicianAt(seat);
    if (technician) this.#parts.connection.sendFrame(this.#channels.to(technician).seal(encodeSealedJson(message)));
  }

  #handleSealed(seat: number, bytes: Uint8Array): void {
    const technician = this.#technicianAt(seat);
    const { grants, connection, log } = this.#parts;
    // The key decides, not the name: without a grant of our own for it, nothing is even opened.
    if (!technician || !grants.holds('control-input', technician.signKey, connection.serviceNowMs)) {
      log.warn({ seat }, 'input without a grant was refused');
      return;
    }
    const opened = unlessUnreadable(() => {
      const { frame, plain } = this.#channels.to(technician).open(bytes);
      return { frame, message: decodeInputMessage(plain) };
    });
    if (!opened) {
      log.warn({ seat }, 'input that this key did not seal was refused');
      return;
    }
    const { frame, message } = opened;
    if (message.type === 'openLease') this.#open(technician);
    else if (this.#lease && 'lease' in message && message.lease === this.#lease.id && this.#lease.seat === seat) {
      this.#lease.heardAtMs = performance.now();
      if (message.type === 'closeLease') this.end('the technician let go');
      else if (message.type === 'input') this.#takeInput(this.#lease, message, frame.display, frame.displayGeneration);
    }
  }

  #open(technician: Participant): void {
    this.end('another lease was opened');
    const lease: Lease = {
      id: randomBytes(16).toString('hex'),
      technicianId: technician.id,
      seat: technician.seat,
      signKey: technician.signKey,
      startId: technician.startId,
      lastNumber: 0,
      heardAtMs: performance.now(),
      clicks: 0,
      keys: 0,
      waiting: 0,
    };
    this.#lease = lease;
    const whyHeld = this.#parts.whyHeld(technician.signKey);
    if (whyHeld !== undefined) {
      this.#lease = undefined;
      this.#tell(lease.seat, { type: 'leaseClosed', lease: lease.id, why: whyHeld });
      return;
    }
    this.#parts.holder.report((fact) => ({ type: 'startControl', participantId: technician.id, fact }));
    this.#tell(lease.seat, { type: 'leaseOpened', lease: lease.id });
    if (performance.now() < this.#pausedUntilMs) this.#tellPaused(lease.seat);
    this.#parts.onChanged();
  }

  #takeInput(
    lease: Lease,
    message: Extract<InputMessage, { type: 'input' }>,
    display: number,
    generation: number,
  ): void {
    if (message.number !== lease.lastNumber + 1) {
      this.end('messages are missing');
      return;
    }
    lease.lastNumber = message.number;
    const { act } = message;
    // Letting go is never dropped: what is down must come up, whatever else is true.
    if ('isDown' in act && !act.isDown) {
      const monitor = this.#parts.aim(display)?.monitor;
      this.#enqueue(lease, 'x' in act && monitor ? within(act, monitor) : act);
      return;
    }
    const drop = (why: string) => this.#tell(lease.seat, { type: 'inputDropped', number: message.number, why });
    const nowMs = performance.now();
    if (this.#parts.holder.isPromptOpen) return drop('a question is open on their screen');
    if (nowMs < this.#pausedUntilMs) return this.#tellPaused(lease.seat);
    const aim = this.#parts.aim(display);
    if (!aim) return drop('that screen is not shown any longer');
    if (generation !== aim.generation) return drop('the screen has another size now');
    const replacedAtMs = aim.replacedAtMs(message.aimedAtUpdate);
    if (replacedAtMs !== undefined && nowMs - replacedAtMs > STALE_PICTURE_MS) return drop('your picture was too old');
    if (lease.waiting >= MAX_WAITING_ACTS) return drop('more input waits than can be done');
    this.#enqueue(lease, 'x' in act ? within(act, aim.monitor) : act);
  }

  #enqueue(lease: Lease, act: InputAct): void {
    lease.waiting++;
    const arrivedAtMs = performance.now();
    this.#acts = this.#acts
      .then(() => this.#perform(lease, act, arrivedAtMs))
      .catch((error: unknown) => this.#parts.log.error({ err: error }, 'input failed'))
      .finally(() => lease.waiting--);
  }

  /** Whether this lease may press anything in this very moment; asked by whatever writes to the desktop, as it writes. */
  #holds(lease: Lease): boolean {
    const { grants, connection, holder, whyHeld } = this.#parts;
    return (
      this.#lease === lease &&
      !holder.isPromptOpen &&
      performance.now() >= this.#pausedUntilMs &&
      grants.holds('control-input', lease.signKey, connection.serviceNowMs) &&
      whyHeld(lease.signKey) === undefined
    );
  }

  async #perform(lease: Lease, act: InputAct, arrivedAtMs: number): Promise<void> {
    const { desktop } = this.#parts;
    const isRelease = 'isDown' in act && !act.isDown;
    // A desktop that stands still takes nothing; what piled up meanwhile would all be done at once when it wakes.
    await desktop.answers();
    // Between coming in and its turn the person may have stopped it all; then everything was let go already.
    if (this.#lease !== lease) return;
    const isStale = performance.now() - arrivedAtMs > STALE_INPUT_MS;
    const may = () => !isStale && this.#holds(lease);
    if (!may() && !isRelease) return;
    if ('x' in act && may()) desktop.movePointer(act.x, act.y);
    switch (act.act) {
      case 'move':
        break;
      case 'button':
        if (act.isDown) lease.clicks++;
        desktop.button(act.button, act.isDown);
        break;
      case 'wheel':
        desktop.wheel(act.stepsX, act.stepsY);
        break;
      case 'key':
        if (act.isDown) lease.keys++;
        await desktop.key(act.key, act.isDown, may);
        break;
      case 'text':
        lease.keys += await desktop.type(act.text, may);
        break;
    }
  }

  #tellPaused(seat: number): void {
    this.#tell(seat, {
      type: 'inputPaused',
      forMs: Math.ceil(Math.max(0, this.#pausedUntilMs - performance.now())),
      why: 'they are using their own mouse or keyboard',
    });
  }

  #pause(): void {
    // Answering a question is not taking over; nothing is injected meanwhile anyway.
    if (this.#parts.holder.isPromptOpen) return;
    const wasPaused = performance.now() < this.#pausedUntilMs;
    this.#pausedUntilMs = performance.now() + LOCAL_PAUSE_MS;
    if (!this.#lease) return;
    if (!wasPaused) {
      this.#parts.desktop.releaseAll();
      this.#tellPaused(this.#lease.seat);
    }
  }
}

/** From pixels of a display to pixels of the desktop, never beside it. */
function within<A extends { x: number; y: number }>(act: A, monitor: Rect): A {
  const x = monitor.x + Math.min(act.x, monitor.width - 1);
  const y = monitor.y + Math.min(act.y, monitor.height - 1);
  return { ...act, x, y };
}
