import { consentHolderOf, restingBy, standingOf, type Permission, type Resting } from '@porch/core';
import { handsOffChannel, type HandsOffMessage } from '@porch/wire';
import type { LiveConnection } from '../live/live-connection.ts';
import { SealedLine } from '../sealed-line.ts';

/** Doorstep gives it up when nothing was heard for this long. */
export const HANDS_OFF_SILENCE_MS = 3_000;
const KEEP_MS = 1_000;

export type RestingPermission = keyof typeof restingBy;
export const restingPermissions = Object.keys(restingBy) as RestingPermission[];

/** What of theirs rests, as somebody reads it who did not ask. */
export interface RestingNow {
  readonly what: Resting;
  /** By the service's clock. */
  readonly endsAtMs: number;
}

/**
 * The technician's side of what rests at the customer's. A yes begins it; it lasts only while this program says again and
 * again, sealed with its own key, that it is there.
 */
export class TechnicianHandsOff {
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<HandsOffMessage>;
  readonly #offs: (() => void)[];

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#line = new SealedLine(connection, handsOffChannel);
    this.#offs = [
      connection.on('entry', ({ event }) => {
        if (event.type === 'permissionGranted' && event.permission in restingBy) this.#keep();
      }),
      connection.clock.every(KEEP_MS, () => this.#keep()),
    ];
  }

  /** What the customer let this technician have rest, in force or about to be. */
  get allowed(): readonly RestingPermission[] {
    return restingPermissions.filter((permission) => this.#endOf(permission) !== undefined);
  }
  /** What rests for this technician just now. */
  get resting(): readonly RestingNow[] {
    const { state, participantId } = this.#connection;
    return restingPermissions.flatMap((permission) => {
      const endsAtMs = this.#endOf(permission);
      const what = restingBy[permission];
      const isInForce = state.slices['hands-off'].resting[what] === participantId;
      return isInForce && endsAtMs !== undefined ? [{ what, endsAtMs }] : [];
    });
  }

  /** Asks them, as a favour, to leave mouse and keyboard alone; or says that it is over. */
  async askStepBack(isAsked: boolean): Promise<void> {
    await this.#connection.command({ type: 'hands-off/askStepBack', isAsked });
  }

  close(): void {
    this.#offs.forEach((off) => off());
  }

  #endOf(permission: Permission): number | undefined {
    const { state, participantId, serviceNowMs } = this.#connection;
    const standing = standingOf(state, participantId, permission);
    return standing.name === 'allowed' && standing.endsAtMs > serviceNowMs ? standing.endsAtMs : undefined;
  }

  #keep(): void {
    const holder = consentHolderOf(this.#connection.state);
    if (holder && this.#connection.status === 'live' && this.allowed.length)
      this.#line.send(holder.seat, { type: 'keep' });
  }
}
