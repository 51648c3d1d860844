import { allPermissions, type OpenAsk, type Participant, type Permission } from '@porch/core';
import type { Kit } from '../../kit.ts';
import type { RestartPort, ReturnAgreement } from '../../ports/restart-port.ts';
import { agreedUntilMs, seesScreen, withDependants } from './agreement.ts';

/**
 * What was agreed to come back, at this start and at the next: it becomes less whenever something of it is taken or given
 * back, and never more but by the person's word.
 */
export class ComingBack {
  readonly #kit: Kit;
  readonly #port: RestartPort;
  #agreement: ReturnAgreement | undefined;
  /** What this start has not had yet of it: each is answered once without asking. */
  readonly #unused: Set<Permission>;
  #keeping: Promise<void> = Promise.resolve();

  constructor(kit: Kit, port: RestartPort) {
    this.#kit = kit;
    this.#port = port;
    this.#agreement = port.returned;
    this.#unused = new Set(port.returned?.permissions.map(({ permission }) => permission));
    if (port.returned) this.#tellReturned();
    else this.#tellNothing();
  }

  /** From now on this comes back. Resolves once that outlasts a cut of power. */
  async agree(agreement: ReturnAgreement, participantId: string): Promise<void> {
    this.#agreement = agreement;
    this.#unused.clear();
    this.#tell(participantId, agreement);
    await this.#keep(agreement);
  }

  coveredUntilMs(ask: OpenAsk): number | undefined {
    const { state, serviceNowMs } = this.#kit.connection;
    const from = state.participants[ask.participantId];
    return this.#agreement && agreedUntilMs(this.#agreement, this.#unused, ask, from, serviceNowMs);
  }

  /** It was granted, by whatever way: whoever wants it again asks. */
  used(participantId: string, permission: Permission): void {
    if (this.#isTheirs(participantId)) this.#unused.delete(permission);
  }
  /** It was taken or given back: neither that nor what is nothing without it comes back. */
  gone(participantId: string, permission: Permission): void {
    if (this.#isTheirs(participantId)) this.#less(withDependants(permission));
  }
  /** The person stopped everything: Doorstep comes back to tell that, and to nothing else. */
  allGone(): void {
    this.#less(allPermissions);
  }
  /** The person keeps something of their screen to themselves: what sees is asked for anew. */
  follow(): void {
    if (this.#agreement && isLimitedHere(this.#kit)) this.#less(allPermissions.filter((one) => seesScreen(one)));
  }

  close(): Promise<void> {
    return this.#keeping;
  }

  #less(gone: readonly Permission[]): void {
    if (!this.#agreement) return;
    const { permissions, ...keys } = this.#agreement;
    for (const one of gone) this.#unused.delete(one);
    const left = { ...keys, permissions: permissions.filter(({ permission }) => !gone.includes(permission)) };
    if (left.permissions.length === permissions.length) return;
    this.#agreement = left;
    const { participants } = this.#kit.connection.state;
    const theirs = Object.values(participants).find(({ signKey }) => signKey === keys.signKey);
    if (theirs) this.#tell(theirs.id, left);
    this.#keep(left).catch((error: unknown) =>
      this.#kit.log.error({ why: String(error) }, 'what comes back could not be written down'),
    );
  }
  #isTheirs(participantId: string): boolean {
    return this.#kit.connection.state.participants[participantId]?.signKey === this.#agreement?.signKey;
  }
  #keep(agreement: ReturnAgreement): Promise<void> {
    const kept = this.#keeping.then(() => this.#port.keep(agreement));
    this.#keeping = kept.catch(() => undefined); // Whoever asked hears it.
    return kept;
  }
  #tell(participantId: string, agreement: ReturnAgreement): void {
    const permissions = agreement.permissions.map(({ permission }) => permission);
    this.#kit.report((fact) => ({ type: 'restart-and-return/tellAgreed', participantId, permissions, fact }));
  }
  /** Nobody came back: what the ledger still says of an earlier start is over. */
  #tellNothing(): void {
    const { agreed } = this.#kit.connection.state.slices['restart-and-return'];
    if (!agreed?.permissions.length) return;
    const { participantId } = agreed;
    this.#kit.report((fact) => ({ type: 'restart-and-return/tellAgreed', participantId, permissions: [], fact }));
  }
  #tellReturned(): void {
    const { state, serviceNowMs } = this.#kit.connection;
    const isThere = (one: Participant) => one.signKey === this.#agreement?.signKey && !one.isGone;
    const permissions = Object.values(state.participants).some(isThere)
      ? (this.#agreement?.permissions ?? [])
          .filter(({ endsAtMs }) => endsAtMs > serviceNowMs)
          .map((one) => one.permission)
      : [];
    this.#kit.report((fact) => ({ type: 'restart-and-return/tellReturned', permissions, fact }));
  }
}

/** Whether the person here shows less than everything. */
export const isLimitedHere = ({ ports: { hiding } }: Kit): boolean =>
  hiding !== undefined && (hiding.hidesAny || hiding.shown.what !== 'everything');
