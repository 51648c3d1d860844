import type { Proof } from '@porch/core';
import { AppError, type Clock, type ConnectionPass } from '@porch/wire';
import { makeToken } from '../../auth/tokens.ts';

/** How long a pass waits for its connection, and how many may wait. */
const PASS_MS = 30_000;
const MAX_PASSES = 5_000;
/** One bearer needs one, and one more when a line was lost on the way. */
const MAX_PASSES_PER_BEARER = 8;

export type Bearer =
  | { kind: 'technician'; sessionId: string; technicianId: string; name: string; signInId: string }
  | {
      kind: 'customer';
      sessionId: string;
      part: 'page' | 'doorstep';
      way: string;
      proof: Proof | undefined;
      /** The pass they came with: it dies with what it hangs on, and so does the leave to connect. */
      passHash: Buffer;
    };

const keyOf = (bearer: Bearer) => (bearer.kind === 'technician' ? bearer.signInId : bearer.passHash.toString('hex'));

/** Short-lived leave to connect once, bound to session, part and person. Kept in memory: a restart asks for new ones. */
export class ConnectionPasses {
  readonly #clock: Clock;
  readonly #waiting = new Map<string, { bearer: Bearer; expiresAtMs: number }>();

  constructor(clock: Clock) {
    this.#clock = clock;
  }

  issue(bearer: Bearer, liveUrl: string): ConnectionPass {
    const nowMs = this.#clock.nowMs();
    for (const [old, { expiresAtMs }] of this.#waiting) {
      if (expiresAtMs > nowMs && this.#waiting.size < MAX_PASSES) break;
      this.#waiting.delete(old);
    }
    const key = keyOf(bearer);
    const same = [...this.#waiting].filter(([, waiting]) => keyOf(waiting.bearer) === key);
    for (const [old] of same.slice(0, Math.max(0, same.length - MAX_PASSES_PER_BEARER + 1))) this.#waiting.delete(old);
    const pass = makeToken();
    this.#waiting.set(pass, { bearer, expiresAtMs: nowMs + PASS_MS });
    return { pass, sessionId: bearer.sessionId, liveUrl };
  }

  redeem(pass: string): Bearer {
    const found = this.#waiting.get(pass);
    this.#waiting.delete(pass);
    if (!found || found.expiresAtMs < this.#clock.nowMs()) throw new AppError('PASS_INVALID');
    return found.bearer;
  }

  /** Takes back what was issued to a sign-in that has ended. */
  revoke(signInId: string): void {
    for (const [pass, { bearer }] of this.#waiting)
      if (bearer.kind === 'technician' && bearer.signInId === signInId) this.#waiting.delete(pass);
  }
}
