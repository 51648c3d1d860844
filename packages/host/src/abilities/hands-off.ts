import { HANDS_OFF_SILENCE_MS, SealedLine } from '@porch/client';
import {
  consentHolderOf,
  firstName,
  isConfirmed,
  presentOf,
  restingBy,
  rulesOf,
  standingOf,
  type Participant,
  type Permission,
  type Resting,
} from '@porch/core';
import { handsOffChannel, type HandsOffMessage } from '@porch/wire';
import { beginWith, type BannerLine, type HostAbility, type Kit, type Running } from '../kit.ts';
import type { HandsOffPort, Rest } from '../ports/hands-off-port.ts';
import { whyWithout } from '../ports/host-ports.ts';

/** How often it is looked whether the technician was heard. */
const LOOK_MS = 250;
const kinds = Object.entries(restingBy) as [Permission, Resting][];

/** One thing that rests, for one technician. */
interface InForce {
  readonly permission: Permission;
  readonly technician: Participant;
  readonly rest: Rest;
  isTold: boolean;
}

/**
 * Lets the person's own mouse and keyboard rest, or covers their screen, while a grant of ours says so and the technician's
 * program, sealed with the key that was granted to, is heard. A question or a private moment interrupts it; whatever else
 * ends it takes the grant along, so that it never comes back by itself.
 */
class HandsOffHere implements Running {
  readonly #kit: Kit;
  readonly #port: HandsOffPort;
  readonly #offs: (() => void)[];
  /** When each start of a technician's program was last heard. */
  readonly #heardAtMs = new Map<string, number>();
  readonly #inForce = new Map<Resting, InForce>();
  readonly #ending = new Set<Promise<void>>();

  constructor(kit: Kit, port: HandsOffPort) {
    this.#kit = kit;
    this.#port = port;
    const line = new SealedLine<HandsOffMessage>(kit.connection, handsOffChannel);
    this.#offs = [
      line.listen(
        ({ from }) => {
          this.#heardAtMs.set(from.startId, kit.time.nowMs());
          this.changed();
        },
        ({ side, isGone, signKey }) =>
          side === 'desk' && !isGone && kinds.some(([permission]) => kit.held.holds(permission, signKey)),
      ),
      kit.time.every(LOOK_MS, () => this.#look()),
    ];
  }

  changed(): void {
    for (const [permission, what] of kinds) {
      const known = this.#inForce.get(what);
      const wanted = this.#wanted(permission);
      if (known && known.technician.startId !== wanted?.technician.startId) this.#end(known, this.#whyOver(known));
      if (wanted && !this.#inForce.has(what)) this.#begin(permission, what, wanted);
    }
  }

  banner(soFar: BannerLine): BannerLine {
    const { inputRests, screenRests, stepBack } = this.#kit.words.handsOff;
    const { state } = this.#kit.connection;
    const besides = [
      ...(this.#inForce.has('input') ? [inputRests] : []),
      ...(this.#inForce.has('screen') ? [screenRests] : []),
      ...(state.slices['hands-off'].stepBackFor !== undefined && !this.#inForce.size ? [stepBack] : []),
    ];
    return besides.length ? { ...soFar, besides: [...soFar.besides, ...besides] } : soFar;
  }

  async close(): Promise<void> {
    this.#offs.forEach((off) => off());
    for (const one of [...this.#inForce.values()]) this.#end(one, 'Doorstep was closed');
    await Promise.all(this.#ending);
  }

  /** Who may have it now, is heard, and until when; undefined while nobody is. */
  #wanted(permission: Permission): { readonly technician: Participant; readonly forMs: number } | undefined {
    const { connection, held, isAsking, isStopped, time } = this.#kit;
    const { state, status, serviceNowMs } = connection;
    if (isAsking || isStopped || status !== 'live' || !isConfirmed(state)) return undefined;
    if (consentHolderOf(state)?.id !== connection.participantId) return undefined;
    const technician = presentOf(state, 'desk').find((p) => held.may(permission, p.signKey));
    // What is allowed is what this computer holds and the session says, and no longer than both.
    const standing = technician && standingOf(state, technician.id, permission);
    if (!technician || standing?.name !== 'allowed') return undefined;
    const forMs = standing.endsAtMs - serviceNowMs;
    const heardAtMs = this.#heardAtMs.get(technician.startId);
    const isHeard = heardAtMs !== undefined && time.nowMs() - heardAtMs <= HANDS_OFF_SILENCE_MS;
    return isHeard && forMs > 0 ? { technician, forMs } : undefined;
  }

  #begin(permission: Permission, what: Resting, { technician, forMs }: { technician: Participant; forMs: number }) {
    const { words, report, log } = this.#kit;
    const { handsOff, kernel } = words;
    const { key, atMost } = handsOff;
    const on = handsOff.on[what];
    const who = firstName(technician.name ?? kernel.technician);
    const isThis = () => this.#inForce.get(what) === one;
    const one: InForce = {
      permission,
      technician,
      isTold: false,
      rest: this.#port.begin(
        what,
        { title: on.title({ who }), line: on.line({ who }), keyDoes: on.keyDoes, key, atMost },
        forMs,
        {
          inForce: () => {
            if (!isThis() || one.isTold) return;
            one.isTold = true;
            report((fact) => ({ type: 'hands-off/tellBegun', participantId: technician.id, what, fact }));
          },
          lifted: (by) => {
            // Whichever of the two heard the key: both are lifted.
            for (const lifted of [...this.#inForce.values()]) this.#end(lifted, 'lifted by a key at the desktop');
            if (by === 'stop') this.#kit.stop('pressed Stop at the desktop');
          },
          over: (why) => {
            if (!isThis()) return;
            log.warn({ why: String(why), what }, 'what rested works again by itself');
            this.#end(one, 'it ended by itself');
          },
        },
      ),
    };
    this.#inForce.set(what, one);
    this.#kit.changed();
  }

  #look(): void {
    const { time } = this.#kit;
    for (const [startId, heardAtMs] of this.#heardAtMs)
      if (time.nowMs() - heardAtMs > HANDS_OFF_SILENCE_MS) this.#heardAtMs.delete(startId);
    if (this.#inForce.size) this.changed();
  }

  #whyOver({ permission, technician }: InForce): string {
    const { held, isAsking, connection } = this.#kit;
    const { state, status } = connection;
    if (status !== 'live') return 'the line is gone';
    if (isAsking) return 'a question is open on their screen';
    const lease = held.stateOf(permission, technician.signKey);
    if (lease.name === 'paused') return lease.why;
    if (lease.name === 'over') return 'it is not allowed any longer';
    return isConfirmed(state) ? 'nothing was heard from the technician' : 'the customer is not confirmed any longer';
  }

  #end(one: InForce, why: string): void {
    const { permission, technician } = one;
    const what = restingBy[permission as keyof typeof restingBy];
    if (this.#inForce.get(what) !== one) return;
    this.#inForce.delete(what);
    const { log, report, held, isAsking } = this.#kit;
    const ending = one.rest
      .end()
      .catch((error: unknown) => log.error({ err: error }, 'what rested cannot be ended'))
      .finally(() => this.#ending.delete(ending));
    this.#ending.add(ending);
    if (one.isTold) report((fact) => ({ type: 'hands-off/tellEnded', participantId: technician.id, what, why, fact }));
    // A question or a private moment only interrupts it.
    const isInterrupted = isAsking || held.stateOf(permission, technician.signKey).name === 'paused';
    if (!isInterrupted && held.holds(permission, technician.signKey))
      this.#kit.withdraw(technician.id, permission, why);
    this.#kit.changed();
  }
}

/** Lets the person's own hands and eyes rest for a moment. */
export const handsOff: HostAbility = {
  name: 'hands-off',
  whyNot: (permission, ports) => {
    const isCover = restingBy[permission as keyof typeof restingBy] === 'screen';
    return whyWithout(ports, 'handsOff') ?? (isCover && !ports.handsOff?.canCover ? 'computer-cannot' : undefined);
  },
  warn: ({ permission, firstName: first, words, clockAt }) =>
    words.handsOff.warn[restingBy[permission as keyof typeof restingBy]]({
      first,
      until: clockAt(rulesOf(permission).longestMs ?? 0),
      key: words.handsOff.key,
    }),
  begin: (kit) => beginWith(kit.ports.handsOff, (port) => new HandsOffHere(kit, port)),
};
