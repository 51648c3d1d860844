import { isCovered, mayBegin, MAX_SECRET_TRIES, type OpenAsk, type Participant, type Visit } from '@porch/core';
import { SealedLine } from '@porch/client';
import {
  finishAsB,
  freshScalar,
  isSameProof,
  secretContext,
  secretSides,
  shareOfB,
  standingChannel,
  type DoorMessage,
  type Clock,
} from '@porch/wire';
import type { Kit } from '../../kit.ts';
import type { VisitPort } from '../../ports/standing-port.ts';
import { welcomeQuestion } from './questions.ts';

/** Who sits at the device gets this long to answer; then the visit is over. */
const WELCOME_MS = 120_000;
/** A technician who neither says the secret nor asks anybody is sent away after this. */
const WAIT_AT_DOOR_MS = 10 * 60_000;

/**
 * A visit at this device: proves the second secret, asks whoever sits there where the consent says so, and says which
 * asks the standing consent covers. The service has no part in any of it.
 */
export class VisitDesk {
  readonly #kit: Kit;
  readonly #port: VisitPort;
  readonly #line: SealedLine<DoorMessage>;
  readonly #offs: (() => void)[];
  /** The proof that is awaited, by technician's key. */
  readonly #awaited = new Map<string, string>();
  #visit: Visit = { provenSignKey: undefined, isWelcome: false };
  #hasBegun = false;
  #isAskingHere = false;

  constructor(kit: Kit, port: VisitPort) {
    this.#kit = kit;
    this.#port = port;
    this.#line = new SealedLine(kit.connection, standingChannel);
    this.#offs = [
      // Before anything is allowed: what is proven here is not what the service says.
      this.#line.listen(
        ({ from, message }) => this.#take(from, message),
        (from) => from.side === 'desk' && !from.isGone,
      ),
      kit.time.after(WAIT_AT_DOOR_MS, () => {
        if (!kit.connection.state.hasAccepted) kit.stop('nobody came in');
      }),
    ];
  }

  /** Whether this technician's keys are those that knew the secret. */
  isProven(participantId: string): boolean {
    const { participants } = this.#kit.connection.state;
    return (
      this.#visit.provenSignKey !== undefined && participants[participantId]?.signKey === this.#visit.provenSignKey
    );
  }
  /** A consent that asks for no visit is for when nobody is there. */
  mayBeAlone(signKey: string): boolean {
    return this.#hasBegun && !this.#port.standing.consent.asksEachVisit && signKey === this.#visit.provenSignKey;
  }
  get hasBegun(): boolean {
    return this.#hasBegun;
  }

  /** When what the standing consent covers of this ask ends; undefined when whoever sits here must be asked. */
  coveredUntilMs(ask: OpenAsk): number | undefined {
    const { connection, time } = this.#kit;
    // The consent as it is now: it may have been ended a moment ago.
    const consent = this.#port.read()?.consent;
    const signKey = connection.state.participants[ask.participantId]?.signKey;
    if (!consent || signKey === undefined || !this.#hasBegun) return undefined;
    const isFine = isCovered(consent, this.#visit, { permissions: ask.permissions, signKey }, time.wallMs());
    return isFine ? consent.untilMs : undefined;
  }

  #take(technician: Participant, message: DoorMessage): void {
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
    this.#offs.forEach((off) => off());
  }

  get #triesLeft(): number {
    return this.#port.read()?.triesLeft ?? 0;
  }

  #wantSecret(technician: Participant): void {
    const { standing } = this.#port;
    if (this.isProven(technician.id))
      this.#line.send(technician.seat, { type: 'secretResult', isRight: true, triesLeft: this.#triesLeft });
    else this.#line.send(technician.seat, { type: 'secretWanted', salt: standing.salt, triesLeft: this.#triesLeft });
  }

  #answer(technician: Participant, shareA: string): void {
    const { standing } = this.#port;
    const { connection } = this.#kit;
    this.#awaited.delete(technician.signKey);
    // Counted before anything is looked at.
    if (!this.#port.takeTry()) {
      this.#line.send(technician.seat, { type: 'secretResult', isRight: false, triesLeft: 0 });
      return;
    }
    const w = BigInt(`0x${standing.scalar}`);
    const y = freshScalar(this.#kit.random.bytes(40));
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
      this.#line.send(technician.seat, { type: 'secretResult', isRight: false, triesLeft: this.#triesLeft });
      return;
    }
    this.#awaited.set(technician.signKey, result.proofOfA);
    this.#line.send(technician.seat, { type: 'secretShare', share: shareB, proof: result.proofOfB });
  }

  #check(technician: Participant, proof: string): void {
    const { log } = this.#kit;
    const awaited = this.#awaited.get(technician.signKey);
    if (awaited === undefined) return;
    this.#awaited.delete(technician.signKey);
    const isRight = isSameProof(awaited, proof);
    if (isRight) {
      this.#port.setTries(MAX_SECRET_TRIES);
      this.#visit = { ...this.#visit, provenSignKey: technician.signKey };
    } else log.warn({ triesLeft: this.#triesLeft }, 'a wrong second secret');
    this.#line.send(technician.seat, { type: 'secretResult', isRight, triesLeft: this.#triesLeft });
    if (isRight)
      this.#begin(technician).catch((error: unknown) => log.warn({ why: String(error) }, 'the visit could not begin'));
  }

  async #begin(technician: Participant): Promise<void> {
    const { connection, time } = this.#kit;
    const { standing } = this.#port;
    const wasAsked = standing.consent.asksEachVisit && !this.#visit.isWelcome;
    if (wasAsked) {
      const answer = await this.#kit.ask(
        welcomeQuestion(connection.state, technician.name, standing),
        endAfter(this.#kit.time, WELCOME_MS),
      );
      if (answer?.what !== 'yes') {
        this.#kit.stop(answer ? 'did not want this visit' : 'nobody answered at the device');
        return;
      }
      this.#visit = { ...this.#visit, isWelcome: true };
    }
    if (!mayBegin(standing.consent, this.#visit, time.wallMs())) return;
    this.#hasBegun = true;
    this.#port.onBegun();
    this.#port.addVisit({
      atMs: time.wallMs(),
      sessionId: connection.sessionId,
      technicianName: technician.name ?? '',
      hasBegun: true,
    });
    await connection.command({
      type: 'beginVisit',
      participantId: technician.id,
      wasAsked,
      noticeVersion: this.#kit.desk.noticeVersion,
    });
    this.#kit.changed();
  }

  /** Once for each visit: whoever sits here is asked what any customer is asked. */
  #askHere(): void {
    if (this.#isAskingHere) return;
    this.#isAskingHere = true;
    const { log } = this.#kit;
    this.#kit
      .askAtTheDoor()
      .catch((error: unknown) => log.warn({ why: String(error) }, 'the questions at the door were not answered'));
  }
}

function endAfter(time: Clock, waitMs: number): AbortSignal {
  const controller = new AbortController();
  time.after(waitMs, () => controller.abort());
  return controller.signal;
}
