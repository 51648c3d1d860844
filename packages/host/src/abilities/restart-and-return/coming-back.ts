import type { OpenAsk, Participant, Permission } from '@porch/core';
import type { Kit } from '../../kit.ts';
import type { RestartPort, ReturnAgreement } from '../../ports/restart-port.ts';
import { agreedUntilMs } from './agreement.ts';

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
  }

  /** From now on this comes back. Resolves once that outlasts a cut of power. */
  async agree(agreement: ReturnAgreement, participantId: string): Promise<void> {
    this.#agreement = agreement;
    this.#unused.clear();
    this.#tell(participantId, agreement);
    await this.#keep();
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
  /** It was taken or given back: it does not come back. */
  gone(participantId: string, permission: Permission): void {
    const agreement = this.#agreement;
    if (!agreement || !this.#isTheirs(participantId)) return;
    this.#unused.delete(permission);
    const left = agreement.permissions.filter((one) => one.permission !== permission);
    if (left.length === agreement.permissions.length) return;
    this.#agreement = { ...agreement, permissions: left };
    this.#tell(participantId, this.#agreement);
    this.#kit.log.info({ permission }, 'it does not come back after a restart');
    this.#keep().catch((error: unknown) =>
      this.#kit.log.error({ why: String(error) }, 'what comes back could not be written down'),
    );
  }

  close(): Promise<void> {
    return this.#keeping;
  }

  #isTheirs(participantId: string): boolean {
    return this.#kit.connection.state.participants[participantId]?.signKey === this.#agreement?.signKey;
  }
  #keep(): Promise<void> {
    const kept = this.#keeping.then(() => this.#port.keep(this.#agreement));
    this.#keeping = kept.catch(() => undefined); // Whoever asked hears it.
    return kept;
  }
  #tell(participantId: string, agreement: ReturnAgreement): void {
    const permissions = agreement.permissions.map(({ permission }) => permission);
    this.#kit.report((fact) => ({ type: 'restart-and-return/tellAgreed', participantId, permissions, fact }));
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
