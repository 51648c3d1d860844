import { SealedLine } from '@porch/client';
import { rightsBackInWords, type Participant, type PointTouches, type SafePoint } from '@porch/core';
import { speechOf } from '@porch/words';
import {
  encodeWords,
  isSameBack,
  MAX_SAFE_POINTS,
  MAX_TOLD_DIFFERENCES,
  safePointsChannel,
  type SafePointsMessage,
} from '@porch/wire';
import type { Lease } from '../consent/held.ts';
import { hints } from '../consent/questions.ts';
import { ASKING } from '../reasons.ts';
import { beginWith, type HostAbility, type Kit, type Running } from '../kit.ts';
import { whyWithout } from '../ports/host-ports.ts';
import { RightsRefused } from '../ports/rights-port.ts';
import { PointRefused, type ByRights, type SafePointsPort } from '../ports/safe-points-port.ts';
import { shortened } from '../shortened.ts';
import { UnderWay } from '../under-way.ts';

const MOST_AT_ONCE = 3;
/** Gigabytes take a while, and a person who is asked may think. */
const STALE_MS = 15 * 60_000;
const DAY_MS = 86_400_000;
const TOLD_EVERY_MS = 300;
const MAX_NAME_CHARS = 80;

type Signed = NonNullable<(SafePointsMessage & { type: 'undo' })['byRights']>;

interface Begun {
  readonly from: Participant;
  readonly id: string;
  readonly lease: Lease;
  readonly signal: AbortSignal;
}

/** Saves what a computer is like before something is changed, and goes back to it; tells the person here of each time. */
class SafePointsHere implements Running {
  readonly #kit: Kit;
  readonly #port: SafePointsPort;
  readonly #line: SealedLine<SafePointsMessage>;
  readonly #underWay: UnderWay;
  readonly #off: () => void;
  /** What is being written, so that the end comes after it. */
  readonly #working = new Set<Promise<void>>();

  constructor(kit: Kit, port: SafePointsPort) {
    this.#kit = kit;
    this.#port = port;
    const line = new SealedLine(kit.connection, safePointsChannel);
    this.#line = line;
    this.#underWay = new UnderWay(kit, {
      ...{ permission: 'make-safe-points', most: MOST_AT_ONCE, staleMs: STALE_MS },
      sendPlain: (seat, plain, may) => line.sendPlain(seat, plain, may),
      sayRefused: (seat, id, why) => line.send(seat, { type: 'refused', id, why }),
    });
    this.#off = line.listen(
      ({ from, message }) => this.#hear(from, message),
      (from) => from.side === 'desk' && !from.isGone && kit.held.holds('make-safe-points', from.signKey),
    );
    kit.shared.makeSafePoint = (from, name, touches) => this.#makeBefore(from, name, touches);
  }

  changed(): void {
    this.#underWay.check();
  }

  async close(): Promise<void> {
    this.#off();
    this.#underWay.close();
    await Promise.all(this.#working);
    await this.#port.dropUnkept();
  }

  #hear(from: Participant, message: SafePointsMessage): void {
    if (message.type === 'stop') {
      if (this.#underWay.heard(from, message.id)) this.#underWay.end(message.id);
      return;
    }
    const work = this.#workFor(message);
    if (!work) return;
    const lease = this.#underWay.begin(from, message.id);
    if (!lease) return;
    this.#follow({ from, id: message.id, lease, signal: this.#underWay.signalOf(message.id) }, work);
  }

  #workFor(message: SafePointsMessage): ((begun: Begun) => Promise<SafePointsMessage>) | undefined {
    switch (message.type) {
      case 'make':
        return (begun) => this.#make(begun, message.name, message.touches);
      case 'list':
        return ({ id }) => this.#list(id);
      case 'compare':
        return (begun) => this.#compare(begun, message.pointId);
      case 'undo':
        return (begun) => this.#undo(begun, message);
      case 'rightsFor':
        return (begun) => this.#rightsFor(begun, message.pointId);
      case 'keep':
        return (begun) => this.#keep(begun, message.pointId, message.days);
      case 'drop':
        return (begun) => this.#drop(begun, message.pointId);
      default:
        return undefined;
    }
  }

  #follow(begun: Begun, work: (begun: Begun) => Promise<SafePointsMessage>): void {
    const { from, id, signal } = begun;
    const done = work(begun)
      .then((message) => {
        this.#tell(begun, message);
        this.#underWay.end(id);
      })
      .catch((error: unknown) => {
        if (!(error instanceof PointRefused) && !signal.aborted)
          this.#kit.log.warn({ why: String(error) }, 'something about a safe point failed');
        if (this.#underWay.has(id))
          this.#underWay.refuse(
            from.seat,
            id,
            error instanceof PointRefused ? error.message : 'it failed at the computer',
          );
      })
      .finally(() => this.#working.delete(done));
    this.#working.add(done);
  }

  async #make(begun: Begun, name: string, touches: PointTouches): Promise<SafePointsMessage> {
    if ((await this.#port.list()).length >= MAX_SAFE_POINTS) throw new PointRefused('there are too many safe points');
    const point = await this.#save(begun, name, touches);
    return { type: 'made', id: begun.id, point };
  }
  async #save({ from, id, lease, signal }: Begun, name: string, touches: PointTouches): Promise<SafePoint> {
    let toldAtMs = -Infinity;
    const mostBytes = this.#kit.desk.maxSafePointBytes;
    const point = await this.#port.make({ name, touches, mostBytes }, signal, (files, sizeBytes) => {
      const nowMs = this.#kit.time.nowMs();
      if (nowMs - toldAtMs < TOLD_EVERY_MS) return;
      toldAtMs = nowMs;
      this.#tell({ from, id, lease, signal }, { type: 'progress', id, files, sizeBytes });
    });
    const { id: pointId, files, sizeBytes, services, packages } = point;
    this.#kit.report((fact) => ({
      ...{ type: 'safe-points/tellMade', pointId, participantId: from.id, name: point.name, fact },
      ...{ files, sizeBytes, services, packages },
    }));
    return point;
  }

  /** Before something else is changed: by whoever may make one; others change it without. */
  async #makeBefore(from: Participant, name: string, touches: PointTouches): Promise<boolean> {
    const lease = this.#kit.held.during('make-safe-points', from.signKey);
    if (!lease.isRunning || (await this.#port.list()).length >= MAX_SAFE_POINTS) return false;
    const saving = this.#save({ from, id: '', lease, signal: lease.signal }, name.slice(0, MAX_NAME_CHARS), touches);
    const settled = saving.then(
      () => undefined,
      () => undefined,
    );
    this.#working.add(settled);
    try {
      await saving;
    } finally {
      this.#working.delete(settled);
    }
    return true;
  }

  async #list(id: string): Promise<SafePointsMessage> {
    return { type: 'points', id, points: (await this.#port.list()).slice(0, MAX_SAFE_POINTS) };
  }

  async #compare({ id, signal }: Begun, pointId: string): Promise<SafePointsMessage> {
    const differences = await this.#port.compare(pointId, signal);
    return {
      ...{ type: 'differences', id, count: differences.length },
      differences: differences.slice(0, MAX_TOLD_DIFFERENCES),
    };
  }

  async #rightsFor({ id, signal }: Begun, pointId: string): Promise<SafePointsMessage> {
    return { type: 'needsRights', id, back: await this.#port.rightsFor(pointId, signal) };
  }

  async #undo(
    begun: Begun,
    { pointId, byRights: signed }: SafePointsMessage & { type: 'undo' },
  ): Promise<SafePointsMessage> {
    const { from, id, lease, signal } = begun;
    // Trust in a question that is open: nothing is done beneath it.
    if (this.#kit.isAsking) throw new PointRefused(ASKING);
    const { name, touches } = await this.#port.touchesOf(pointId);
    const before = this.#kit.words.safePoints.beforeGoingBack({ name }).slice(0, MAX_NAME_CHARS);
    await this.#save(begun, before, touches);
    const may = () => lease.isRunning && !this.#kit.isAsking;
    const byRights = signed && this.#byRights(begun, signed, may);
    const { count, left, why } = await this.#port.undo(pointId, { may, signal, byRights });
    const isWhole = left.length === 0;
    this.#kit.report((fact) => ({
      ...{ type: 'safe-points/tellUndone', pointId, participantId: from.id, name, isWhole, fact },
    }));
    return {
      ...{ type: 'undone', id, count, left: left.slice(0, MAX_TOLD_DIFFERENCES), leftCount: left.length },
      ...(why === undefined ? {} : { why }),
    };
  }

  /** What they signed, and nothing else, by the administrator rights that they have; undefined while they have none. */
  #byRights({ from, id, signal }: Begun, signed: Signed, may: () => boolean): ByRights | undefined {
    const raised = this.#kit.shared.raisedFor(from.signKey);
    if (!raised) return undefined;
    return async (back) => {
      if (!isSameBack(back, signed.back)) return 'it is other than it was a moment ago';
      try {
        await raised.putBack({ orderId: id, ...signed }, rightsBackInWords(back).join(', '), { may, signal });
        return undefined;
      } catch (error) {
        if (error instanceof RightsRefused) return error.message;
        throw error;
      }
    };
  }

  async #keep({ from, id, signal }: Begun, pointId: string, days: number): Promise<SafePointsMessage> {
    const { name } = await this.#port.touchesOf(pointId);
    const { words, connection } = this.#kit;
    const untilMs = Math.round(connection.serviceNowMs + days * DAY_MS);
    const { kernel, safePoints } = words;
    const who = from.name ?? kernel.technician;
    const until = speechOf(connection.state.language).date(untilMs);
    const answer = await this.#kit.ask(
      {
        title: safePoints.mayItStay({ who, name: shortened(name) }),
        lines: [safePoints.staysUntil({ until })],
        ...{ yes: kernel.yes, no: kernel.no, ...hints(kernel) },
      },
      signal,
    );
    if (answer?.what !== 'yes') throw new PointRefused('the customer said no');
    await this.#port.keep(pointId, untilMs);
    this.#kit.report((fact) => ({
      ...{ type: 'safe-points/tellKept', pointId, participantId: from.id, name, untilMs, fact },
    }));
    return { type: 'done', id };
  }

  async #drop({ from, id }: Begun, pointId: string): Promise<SafePointsMessage> {
    const { name } = await this.#port.touchesOf(pointId);
    await this.#port.drop(pointId);
    this.#kit.report((fact) => ({
      ...{ type: 'safe-points/tellDropped', pointId, participantId: from.id, name, fact },
    }));
    return { type: 'done', id };
  }

  #tell({ from, id, lease }: Begun, message: SafePointsMessage): void {
    const may = () => lease.isRunning;
    if (this.#underWay.has(id) && may()) this.#line.sendPlain(from.seat, encodeWords(message), may);
  }
}

/** What a computer was like before. */
export const safePoints: HostAbility = {
  name: 'safe-points',
  whyNot: (_permission, ports) => whyWithout(ports, 'safePoints'),
  warn: ({ words, firstName }) => words.safePoints.whatIsSaved({ first: firstName }),
  begin: (kit) => beginWith(kit.ports.safePoints, (port) => new SafePointsHere(kit, port)),
};
