import {
  consentHolderOf,
  isRightsBackEmpty,
  rightsOf,
  type LeftAsItIs,
  type PointDifference,
  type PointTouches,
  type RightsBack,
  type SafePoint,
} from '@porch/core';
import { backBytes, randomId, safePointsChannel, signBytes, type SafePointsMessage } from '@porch/wire';
import type { LiveConnection } from '../live/live-connection.ts';
import { OpenAnswers } from '../open-answers.ts';
import { SealedLine } from '../sealed-line.ts';
import { RefusedThere } from '../refused-there.ts';

/** The customer's side said no, in its own words. */
export class SafePointRefused extends RefusedThere {}

/** What came of going back. */
export interface WentBack {
  /** So many places, services and packages are what they were again. */
  readonly count: number;
  readonly left: readonly LeftAsItIs[];
  readonly leftCount: number;
  /** Why nothing was done by administrator rights. */
  readonly why?: string | undefined;
}
export interface Compared {
  readonly differences: readonly PointDifference[];
  readonly count: number;
}

/** What of going back only an administrator may, and whether this technician has such rights there now. */
export interface RightsNeeded {
  readonly back: RightsBack;
  readonly isRaised: boolean;
}

type Asking = SafePointsMessage & { type: 'make' | 'list' | 'compare' | 'rightsFor' | 'undo' | 'keep' | 'drop' };
type WithoutId<M> = M extends unknown ? Omit<M, 'id'> : never;
/** People think about it, and gigabytes take a while. */
const ANSWER_MS = 15 * 60_000;

/** The technician's side of safe points. Everything rejects with SafePointRefused when the customer's side says no. */
export class TechnicianSafePoints {
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<SafePointsMessage>;
  readonly #off: () => void;
  readonly #answers: OpenAnswers;
  readonly #telling = new Map<string, (files: number, sizeBytes: number) => void>();

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#answers = new OpenAnswers(connection.clock, (id) => this.#telling.delete(id), ANSWER_MS);
    this.#line = new SealedLine(connection, safePointsChannel);
    this.#off = this.#line.listen(
      ({ message }) => this.#take(message),
      (from) => from.id === connection.state.holderId,
    );
  }

  make(name: string, touches: PointTouches, tell?: (files: number, sizeBytes: number) => void): Promise<SafePoint> {
    return this.#ask({ type: 'make', name, touches }, tell);
  }
  list(): Promise<readonly SafePoint[]> {
    return this.#ask({ type: 'list' });
  }
  compare(pointId: string): Promise<Compared> {
    return this.#ask({ type: 'compare', pointId });
  }
  async rightsFor(pointId: string): Promise<RightsNeeded> {
    const back = await this.#ask<RightsBack>({ type: 'rightsFor', pointId });
    return { back, isRaised: this.#isRaised };
  }
  /**
   * What is there now is saved first: going back can be gone back from. `byRights` is what may be done by administrator
   * rights, as `rightsFor` had it: it is signed, and nothing else is done by them.
   */
  goBack(
    pointId: string,
    { byRights, tell }: { byRights?: RightsBack | undefined; tell?: (files: number, sizeBytes: number) => void } = {},
  ): Promise<WentBack> {
    const { sessionId, keys } = this.#connection;
    if (!byRights || isRightsBackEmpty(byRights) || !this.#isRaised) return this.#ask({ type: 'undo', pointId }, tell);
    const orderId = randomId(this.#connection.random);
    const signature = signBytes(keys, backBytes({ sessionId, orderId }, byRights));
    return this.#ask({ type: 'undo', pointId, byRights: { back: byRights, signature } }, tell, orderId);
  }
  get #isRaised(): boolean {
    const { state, participantId } = this.#connection;
    return rightsOf(state.slices['administrator-rights'], participantId) !== undefined;
  }
  /** Resolves once the person there said yes. */
  keep(pointId: string, days: number): Promise<void> {
    return this.#ask({ type: 'keep', pointId, days });
  }
  drop(pointId: string): Promise<void> {
    return this.#ask({ type: 'drop', pointId });
  }

  close(): void {
    this.#off();
    this.#answers.close();
  }

  #ask<T>(
    what: WithoutId<Asking>,
    tell?: (files: number, sizeBytes: number) => void,
    id = randomId(this.#connection.random),
  ): Promise<T> {
    if (tell) this.#telling.set(id, tell);
    return this.#answers.wait<T>(id, () => this.#send({ ...what, id }));
  }

  #send(message: SafePointsMessage): boolean {
    const holder = consentHolderOf(this.#connection.state);
    return holder !== undefined && this.#line.send(holder.seat, message);
  }

  #take(message: SafePointsMessage): void {
    const { id } = message;
    switch (message.type) {
      case 'progress':
        this.#answers.waitOn(id);
        return this.#telling.get(id)?.(message.files, message.sizeBytes);
      case 'made':
        return this.#answers.resolve(id, message.point);
      case 'points':
        return this.#answers.resolve(id, message.points);
      case 'differences':
        return this.#answers.resolve(id, { differences: message.differences, count: message.count } satisfies Compared);
      case 'undone': {
        const { type: _type, id: _id, ...wentBack } = message;
        return this.#answers.resolve(id, wentBack satisfies WentBack);
      }
      case 'needsRights':
        return this.#answers.resolve(id, message.back);
      case 'done':
        return this.#answers.resolve(id, undefined);
      case 'refused':
        return this.#answers.reject(id, new SafePointRefused(message.why));
      default:
        return undefined;
    }
  }
}
