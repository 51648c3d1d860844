import type { SealedLine } from '@porch/client';
import { firstName, MAX_ACCOUNT_CHARACTERS, type NotCome, type Participant } from '@porch/core';
import type { DesktopsMessage } from '@porch/wire';
import type { Lease } from '../../consent/held.ts';
import type { Kit } from '../../kit.ts';
import { RingRefused, type DesktopsPort } from '../../ports/desktops-port.ts';
import { ASKING } from '../../reasons.ts';
import { timeLimit } from '../../time-limit.ts';
import { UnderWay } from '../../under-way.ts';

/** Whoever is not there by then does not come. */
export const RING_MS = 3 * 60_000;
const FAILED = 'it failed at the computer';
type Ring = DesktopsMessage & { type: 'ring' };

/** Somebody at another desktop is asked in: one at a time for each technician, and no longer than it is allowed. */
export class Rings {
  readonly #kit: Kit;
  readonly #port: DesktopsPort;
  readonly #line: SealedLine<DesktopsMessage>;
  readonly #underWay: UnderWay;
  /** Whose desktop rings, and for whom. */
  readonly #ringing = new Map<string, { readonly who: string; readonly account: string }>();
  readonly #working = new Set<Promise<void>>();

  constructor(kit: Kit, port: DesktopsPort, line: SealedLine<DesktopsMessage>) {
    this.#kit = kit;
    this.#port = port;
    this.#line = line;
    this.#underWay = new UnderWay(kit, {
      ...{ permission: 'call-desktops', most: 1, staleMs: 2 * RING_MS },
      sendPlain: (seat, plain, may) => line.sendPlain(seat, plain, may),
      sayRefused: (seat, id, why) => line.send(seat, { type: 'refused', id, why }),
    });
  }

  get ringing(): readonly { readonly who: string; readonly account: string }[] {
    return [...this.#ringing.values()];
  }

  begin(from: Participant, ring: Ring): void {
    const { id } = ring;
    if (this.#kit.isAsking) return this.#underWay.refuse(from.seat, id, ASKING);
    const isKnown = Object.hasOwn(this.#kit.connection.state.slices.desktops.rings, id);
    if (isKnown) return this.#underWay.refuse(from.seat, id, 'it was run already');
    const lease = this.#underWay.begin(from, id);
    if (!lease) return;
    lease.signal.addEventListener('abort', () => this.#underWay.end(id), { once: true });
    const work = this.#carryOut(from, ring, lease)
      .catch((error: unknown) => this.#kit.log.error({ why: String(error) }, 'a ring at a desktop was not told'))
      .finally(() => {
        this.#working.delete(work);
        if (this.#ringing.delete(id)) this.#kit.changed();
        this.#underWay.end(id);
      });
    this.#working.add(work);
  }

  /** Its technician does not want it any longer. */
  stop(from: Participant, id: string): void {
    if (this.#underWay.heard(from, id)) this.#underWay.end(id);
  }
  check(): void {
    this.#underWay.check();
  }
  async close(): Promise<void> {
    this.#underWay.close();
    while (this.#working.size) await Promise.all(this.#working);
  }

  async #carryOut(from: Participant, ring: Ring, lease: Lease): Promise<void> {
    const limit = timeLimit(this.#kit.time, RING_MS, this.#underWay.signalOf(ring.id));
    try {
      const account = await this.#whose(ring.desktop);
      if (!lease.isRunning || limit.signal.aborted) return;
      const begun = () => this.#begins(from, ring.id, account);
      const said = await this.#port.ring(ring.desktop, ring.link, limit.signal, begun);
      const isBack = said === 'not-answered' && limit.signal.aborted && !limit.isLate;
      const how = isBack ? 'taken-back' : said;
      if (this.#ringing.has(ring.id)) this.#ended(ring.id, how);
      if (lease.isRunning) this.#line.send(from.seat, { type: 'answer', id: ring.id, how });
    } catch (error) {
      const isOurs = error instanceof RingRefused;
      if (!isOurs) this.#kit.log.warn({ why: String(error) }, 'nobody could be asked at another desktop');
      if (this.#ringing.has(ring.id)) this.#ended(ring.id, 'failed');
      this.#underWay.refuse(from.seat, ring.id, isOurs ? error.message : FAILED);
    } finally {
      limit.release();
    }
  }

  /** Whose desktop it is. Throws RingRefused where nobody can be asked there. */
  async #whose(desktop: string): Promise<string> {
    const row = (await this.#port.list()).find((one) => one.desktop === desktop);
    if (!row) throw new RingRefused('it is not there any longer');
    if (row.whyNot !== undefined) throw new RingRefused('nobody can be asked at that desktop');
    return row.account.slice(0, MAX_ACCOUNT_CHARACTERS);
  }

  #begins(from: Participant, ringId: string, account: string): void {
    this.#ringing.set(ringId, { who: firstName(from.name ?? this.#kit.words.kernel.technician), account });
    this.#kit.report((fact) => ({ type: 'desktops/tellRung', ringId, participantId: from.id, account, fact }));
    this.#kit.changed();
  }
  #ended(ringId: string, how: 'came' | NotCome): void {
    this.#kit.report((fact) =>
      how === 'came'
        ? { type: 'desktops/tellCame', ringId, fact }
        : { type: 'desktops/tellNotCome', ringId, why: how, fact },
    );
  }
}
