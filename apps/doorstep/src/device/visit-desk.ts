import { isCovered, mayBegin, MAX_SECRET_TRIES, type OpenAsk, type Participant, type Visit } from '@porch/core';
import type { LiveConnection, LookChannel } from '@porch/client';
import {
  finishAsB,
  freshScalar,
  isSameProof,
  secretContext,
  secretSides,
  shareOfB,
  type LookMessage,
} from '@porch/wire';
import { randomBytes } from 'node:crypto';
import type { Logger } from 'pino';
import type { ConsentHolder } from '../consent/consent-holder.ts';
import { welcomeQuestion } from './device-questions.ts';
import type { Standing, StandingStore } from './standing-store.ts';

/** Who sits at the device gets this long to answer; then the visit is over. */
const WELCOME_MS = 120_000;
/** A technician who neither says the secret nor asks anybody is sent away after this. */
const WAIT_AT_DOOR_MS = 10 * 60_000;

export interface VisitParts {
  readonly connection: LiveConnection;
  readonly holder: ConsentHolder;
  readonly look: LookChannel;
  readonly store: StandingStore;
  readonly standing: Standing;
  readonly noticeVersion: string;
  readonly log: Logger;
  onBegun(): void;
  onChanged(): void;
}

/**
 * A visit at this device: proves the second secret, asks whoever sits there where the consent says so, and says which
 * asks the standing consent covers. The service has no part in any of it.
 */
export class VisitDesk {
  readonly #parts: VisitParts;
  /** The proof that is awaited, by technician's key. */
  readonly #awaited = new Map<string, string>();
  readonly #timer: ReturnType<typeof setTimeout>;
  #visit: Visit = { provenSignKey: undefined, isWelcome: false };
  #hasBegun = false;
  #isAskingHere = false;

  constructor(parts: VisitParts) {
    this.#parts = parts;
    this.#timer = setTimeout(() => {
      if (!parts.connection.state.hasAccepted) parts.holder.stop('nobody came in');
    }, WAIT_AT_DOOR_MS);
  }

  /** Whether this technician's keys are those that knew the secret. */
  isProven(participantId: string): boolean {
    const { participants } = this.#parts.connection.state;
    return (
      this.#visit.provenSignKey !== undefined && participants[participantId]?.signKey === this.#visit.provenSignKey
    );
  }
  /** A consent that asks for no visit is for when nobody is there. */
  mayBeAlone(signKey: string): boolean {
    return this.#hasBegun && !this.#parts.standing.consent.asksEachVisit && signKey === this.#visit.provenSignKey;
  }
  get hasBegun(): boolean {
    return this.#hasBegun;
  }

  /** When what the standing consent covers of this ask ends; undefined when whoever sits here must be asked. */
  coveredUntilMs(ask: OpenAsk): number | undefined {
    const { connection } = this.#parts;
    // The consent as it is on the disk now: it may have been ended a moment ago.
    const consent = this.#parts.store.read()?.consent;
    const signKey = connection.state.participants[ask.participantId]?.signKey;
    if (!consent || signKey === undefined || !this.#hasBegun) return undefined;
    const isFine = isCovered(consent, this.#visit, { permissions: ask.permissions, signKey }, Date.now());
    return isFine ? consent.untilMs : undefined;
  }

  take(technician: Participant, message: LookMessage): void {
    switch (message.type) {
      case 'atTheDoor':
        this.#wantSecret(technician);
        break;
      case 'secretBegin':
        this.#answer(technician, message.share);
        break;
      case 'secretProof':
        this.#check(technician, message.proof);
        break;
      case 'askWhoIsThere':
        this.#askHere();
        break;
      default:
        break;
    }
  }

  close(): void {
    clearTimeout(this.#timer);
  }

  get #triesLeft(): number {
    return this.#parts.store.read()?.triesLeft ?? 0;
  }

  #wantSecret(technician: Participant): void {
    const { look, standing } = this.#parts;
    if (this.isProven(technician.id))
      look.send(technician.seat, { type: 'secretResult', isRight: true, triesLeft: this.#triesLeft });
    else look.send(technician.seat, { type: 'secretWanted', salt: standing.salt, triesLeft: this.#triesLeft });
  }

  #answer(technician: Participant, shareA: string): void {
    const { look, store, standing, connection } = this.#parts;
    this.#awaited.delete(technician.signKey);
    // Counted on the disk before anything is looked at.
    if (!store.takeTry()) {
      look.send(technician.seat, { type: 'secretResult', isRight: false, triesLeft: 0 });
      return;
    }
    const w = BigInt(`0x${standing.scalar}`);
    const y = freshScalar(randomBytes(40));
    const shareB = shareOfB(w, y);
    const result = finishAsB(
      {
        sides: secretSides(standing.deviceId),
        w,
        shareA,
        shareB,
        aad: secretContext(connection.sessionId, technician, connection.keys),
      },
      y,
    );
    if (!result) {
      look.send(technician.seat, { type: 'secretResult', isRight: false, triesLeft: this.#triesLeft });
      return;
    }
    this.#awaited.set(technician.signKey, result.proofOfA);
    look.send(technician.seat, { type: 'secretShare', share: shareB, proof: result.proofOfB });
  }

  #check(technician: Participant, proof: string): void {
    const { look, store, log } = this.#parts;
    const awaited = this.#awaited.get(technician.signKey);
    if (awaited === undefined) return;
    this.#awaited.delete(technician.signKey);
    const isRight = isSameProof(awaited, proof);
    if (isRight) {
      store.setTries(MAX_SECRET_TRIES);
      this.#visit = { ...this.#visit, provenSignKey: technician.signKey };
    } else log.warn({ triesLeft: this.#triesLeft }, 'a wrong second secret');
    look.send(technician.seat, { type: 'secretResult', isRight, triesLeft: this.#triesLeft });
    if (isRight)
      this.#begin(technician).catch((error: unknown) => log.warn({ why: String(error) }, 'the visit could not begin'));
  }

  async #begin(technician: Participant): Promise<void> {
    const { connection, holder, store, standing } = this.#parts;
    const wasAsked = standing.consent.asksEachVisit && !this.#visit.isWelcome;
    if (wasAsked) {
      const answer = await holder.askInTurn(
        welcomeQuestion(connection.state, technician.name, standing),
        AbortSignal.timeout(WELCOME_MS),
      );
      if (!answer) {
        holder.stop(answer === false ? 'did not want this visit' : 'nobody answered at the device');
        return;
      }
      this.#visit = { ...this.#visit, isWelcome: true };
    }
    if (!mayBegin(standing.consent, this.#visit, Date.now())) return;
    this.#hasBegun = true;
    this.#parts.onBegun();
    store.addVisit({
      atMs: Date.now(),
      sessionId: connection.sessionId,
      technicianName: technician.name ?? '',
      hasBegun: true,
    });
    await connection.command({
      type: 'beginVisit',
      participantId: technician.id,
      wasAsked,
      noticeVersion: this.#parts.noticeVersion,
    });
    this.#parts.onChanged();
  }

  /** Once for each visit: whoever sits here is asked what any customer is asked. */
  #askHere(): void {
    if (this.#isAskingHere) return;
    this.#isAskingHere = true;
    const { holder, log } = this.#parts;
    holder
      .askAtTheDoor()
      .catch((error: unknown) => log.warn({ why: String(error) }, 'the questions at the door were not answered'));
  }
}
