import {
  allPermissions,
  dependants,
  isOver,
  neededUntilMs,
  rulesOf,
  type Participant,
  type Permission,
  type SessionState,
} from '@porch/core';
import { signGrant, type ParticipantKeys, type SignedGrant } from '@porch/wire';

/** A grant ends with the session, and by itself after this long. */
export const GRANT_MS = 8 * 60 * 60 * 1000;

interface HeldGrant {
  readonly number: number;
  readonly endsAtMs: number;
  /** The number of the first of those grants that followed each other without a gap. */
  readonly since: number;
}

/**
 * The grants this computer holds: the check that counts. Only the person's own yes adds one; anybody may take away.
 * A grant belongs to one technician's key, so another key has nothing, whatever the service says about it.
 */
export class GrantBook {
  readonly #keys: ParticipantKeys;
  readonly #sessionId: string;
  readonly #held = new Map<string, Map<Permission, HeldGrant>>();
  #number: number;
  /** Something was taken, in this very tick. */
  onTaken: () => void = () => undefined;

  /** Numbers go on after the highest that the session has seen. */
  constructor(keys: ParticipantKeys, sessionId: string, lastNumber: number) {
    this.#keys = keys;
    this.#sessionId = sessionId;
    this.#number = lastNumber;
  }

  grant(
    permission: Permission,
    technician: { signKey: string; agreeKey: string },
    endsAtMs: number,
    nowMs = 0,
  ): SignedGrant {
    const number = ++this.#number;
    const ofKey = this.#held.get(technician.signKey) ?? new Map<Permission, HeldGrant>();
    const before = ofKey.get(permission);
    const since = before && nowMs < before.endsAtMs ? before.since : number;
    ofKey.set(permission, { number, endsAtMs, since });
    this.#held.set(technician.signKey, ofKey);
    return signGrant(this.#keys, {
      sessionId: this.#sessionId,
      permission,
      technicianSignKey: technician.signKey,
      technicianAgreeKey: technician.agreeKey,
      number,
      endsAtMs,
    });
  }

  /**
   * Grants what the person chose of an ask, in one breath. What the others need comes first; nothing lasts longer than
   * what it needs, than one yes to it may, or than `endsAtMs`.
   */
  grantChosen(
    chosen: readonly Permission[],
    technician: Participant,
    state: SessionState,
    times: { readonly nowMs: number; readonly endsAtMs: number },
  ): SignedGrant[] {
    const inOrder = allPermissions.filter((p) => chosen.includes(p));
    return inOrder.map((permission) => {
      const { needs, longestMs = Infinity } = rulesOf(permission);
      const isNeededHeld = needs !== undefined && !inOrder.includes(needs);
      const neededMs = isNeededHeld ? neededUntilMs(state, technician.id, permission, []) : Infinity;
      return this.grant(
        permission,
        technician,
        Math.min(times.endsAtMs, neededMs, times.nowMs + longestMs),
        times.nowMs,
      );
    });
  }

  holds(permission: Permission, signKey: string, nowMs: number): boolean {
    const held = this.#held.get(signKey)?.get(permission);
    return held !== undefined && nowMs < held.endsAtMs;
  }

  /** Which unbroken row of grants holds now; undefined when none does. */
  sinceOf(permission: Permission, signKey: string, nowMs: number): number | undefined {
    const held = this.#held.get(signKey)?.get(permission);
    return held && nowMs < held.endsAtMs ? held.since : undefined;
  }

  /** When the next of what is held ends by itself; undefined when nothing does. */
  nextEndMs(nowMs: number): number | undefined {
    const ends = [...this.#held.values()].flatMap((held) => [...held.values()].map((grant) => grant.endsAtMs));
    const coming = ends.filter((endsAtMs) => endsAtMs > nowMs);
    return coming.length ? Math.min(...coming) : undefined;
  }

  holdsAny(permission: Permission, nowMs: number): boolean {
    return [...this.#held.keys()].some((key) => this.holds(permission, key, nowMs));
  }

  /** Takes one permission, and whatever needs it, from one key. */
  drop(permission: Permission, signKey: string): void {
    if (this.#remove(permission, signKey)) this.onTaken();
  }

  dropFromAll(permission: Permission): void {
    for (const signKey of this.#held.keys()) this.drop(permission, signKey);
  }

  dropKey(signKey: string): void {
    if (this.#held.delete(signKey)) this.onTaken();
  }

  #remove(permission: Permission, signKey: string): boolean {
    const wasHeld = this.#held.get(signKey)?.delete(permission) ?? false;
    return dependants(permission).reduce((was, other) => this.#remove(other, signKey) || was, wasHeld);
  }

  /** Brings what is held down to what the session still says: it can only ever take away. */
  follow(state: SessionState): void {
    if (isOver(state)) this.dropAll();
    for (const participant of Object.values(state.participants)) {
      if (participant.side !== 'desk') continue;
      if (participant.isGone) this.dropKey(participant.signKey);
      for (const [permission, standing] of Object.entries(state.standings[participant.id] ?? {}))
        if (standing.name === 'takenBack' || standing.name === 'over')
          this.drop(permission as Permission, participant.signKey);
    }
  }

  /** Whether nobody holds anything. */
  get isEmpty(): boolean {
    return [...this.#held.values()].every((held) => held.size === 0);
  }

  dropAll(): void {
    this.#held.clear();
    this.onTaken();
  }
}
