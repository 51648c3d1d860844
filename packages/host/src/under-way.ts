import { PieceSender } from '@porch/client';
import type { Participant, Permission } from '@porch/core';
import { encodeChunk } from '@porch/wire';
import type { Lease } from './consent/held.ts';
import type { Kit } from './kit.ts';

const STALE_MS = 60_000;
const MAX_WHY_CHARS = 120;

export interface UnderWayRules {
  readonly permission: Permission;
  /** So many for one technician at once; one more is somebody who floods. */
  readonly most: number;
  /** Between two of them, whoever asks. */
  readonly leastGapMs?: number;
  /** Whoever asks for nothing of one for this long does not want it any longer. */
  readonly staleMs?: number;
  sendPlain(seat: number, plain: Uint8Array, may: () => boolean): boolean;
  sayRefused(seat: number, id: string, why: string): void;
  onEnd?(id: string): void;
}

interface One {
  readonly seat: number;
  readonly lease: Lease;
  readonly ends: AbortController;
  heardAtMs: number;
  /** What goes out; undefined while it is being made, and for what comes in. */
  sending?: PieceSender;
}

/** Large things on their way between this host and technicians, piece by piece, each for as long as it is allowed. */
export class UnderWay {
  readonly #kit: Kit;
  readonly #rules: UnderWayRules;
  readonly #ones = new Map<string, One>();
  #begunAtMs = -Infinity;

  constructor(kit: Kit, rules: UnderWayRules) {
    this.#kit = kit;
    this.#rules = rules;
  }

  get areAny(): boolean {
    return this.#ones.size > 0;
  }
  /** Whether one is awaited here by somebody who may have it. */
  get isAnyAwaited(): boolean {
    return [...this.#ones.values()].some(({ sending, lease }) => !sending && lease.isRunning);
  }

  /** Ends what is on its way without leave any longer, or unwanted. */
  check(): void {
    const nowMs = this.#kit.time.nowMs();
    const { staleMs = STALE_MS } = this.#rules;
    for (const [id, { lease, heardAtMs }] of this.#ones)
      if (lease.state.name === 'over' || nowMs - heardAtMs > staleMs) this.end(id);
  }
  close(): void {
    for (const id of [...this.#ones.keys()]) this.end(id);
  }
  end(id: string): void {
    const one = this.#ones.get(id);
    if (!one) return;
    this.#ones.delete(id);
    one.ends.abort();
    this.#rules.onEnd?.(id);
  }
  refuse(seat: number, id: string, why: string): void {
    // Somebody else's goes on, whatever is said of its name.
    if (this.#ones.get(id)?.seat === seat) this.end(id);
    this.#rules.sayRefused(seat, id, why.slice(0, MAX_WHY_CHARS));
  }

  /** Whether it may begin; whoever may not is told why, but for one that is on its way already. */
  begin(from: Participant, id: string): Lease | undefined {
    this.check();
    if (this.#ones.has(id)) return undefined;
    const nowMs = this.#kit.time.nowMs();
    const { permission, most, leastGapMs = 0 } = this.#rules;
    const lease = this.#kit.held.during(permission, from.signKey);
    const theirs = [...this.#ones.values()].filter(({ seat }) => seat === from.seat);
    if (lease.state.name === 'paused') this.refuse(from.seat, id, lease.state.why);
    else if (!lease.isRunning) this.refuse(from.seat, id, 'the customer has not allowed it');
    else if (theirs.length >= most || nowMs - this.#begunAtMs < leastGapMs)
      this.refuse(from.seat, id, 'too many are on their way');
    else {
      this.#begunAtMs = nowMs;
      this.#ones.set(id, { seat: from.seat, lease, ends: new AbortController(), heardAtMs: nowMs });
      return lease;
    }
    return undefined;
  }

  /** The lease of one that is on its way, whoever's it is. */
  leaseOf(id: string): Lease | undefined {
    return this.#ones.get(id)?.lease;
  }

  /** Aborted once it has ended, for whatever reason; from the start for what is not on its way. */
  signalOf(id: string): AbortSignal {
    return this.#ones.get(id)?.ends.signal ?? AbortSignal.abort();
  }
  has(id: string): boolean {
    return this.#ones.has(id);
  }

  /** Somebody says something of one: whether it is theirs and may go on. */
  heard(from: Participant, id: string): boolean {
    const one = this.#ones.get(id);
    if (one?.seat !== from.seat || !one.lease.isRunning) return false;
    one.heardAtMs = this.#kit.time.nowMs();
    return true;
  }

  /** It is made: from now on its pieces can be asked for. */
  hold(id: string, bytes: Uint8Array): void {
    const one = this.#ones.get(id);
    if (!one) return;
    one.sending = new PieceSender(bytes, id, this.#kit.time);
    one.heardAtMs = this.#kit.time.nowMs();
  }

  /** Pieces from here on, as many as may be on their way. */
  send(from: Participant, id: string, offset: number): void {
    const one = this.#ones.get(id);
    const sending = one?.sending;
    if (one?.seat !== from.seat || !sending || offset > sending.bytes.length) return;
    one.heardAtMs = this.#kit.time.nowMs();
    // Whoever asks for what is behind the end has everything.
    if (offset === sending.bytes.length) return this.end(id);
    const may = () => one.lease.isRunning;
    const { sendPlain } = this.#rules;
    sending.sendFrom(offset, (chunk) => may() && sendPlain(from.seat, encodeChunk(chunk), may));
  }
}
