import { consentHolderOf, RAISE_RISK, type RightsWay } from '@porch/core';
import { administratorRightsChannel, randomId, type AdministratorRightsMessage } from '@porch/wire';
import { askLeave } from '../ask-leave.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { OpenAnswers } from '../open-answers.ts';
import { RefusedThere } from '../refused-there.ts';
import type { RestClient } from '../rest-client.ts';
import { SealedLine } from '../sealed-line.ts';

/** The customer's side said no, in its own words. */
export class RightsRefusedThere extends RefusedThere {}

/** How rights could be raised at their computer. */
export interface RightsWays {
  readonly password: boolean;
  /** Where the desk may give leave. */
  readonly installed: { readonly deviceId: string; readonly deskKey: string } | undefined;
  /** The device's label asks for the desk's leave, whichever way. */
  readonly isCareful: boolean;
}
/** What somebody wants rights for, and under which number it is asked, granted and raised. */
export interface RightsWanted {
  readonly raiseId: string;
  readonly what: string;
}

/** Somebody looks for a password, and types it. */
const ANSWER_MS = 5 * 60_000;

/** The technician's side of administrator rights. Everything rejects with RightsRefusedThere when the customer's side says no. */
export class TechnicianRights {
  readonly #connection: LiveConnection;
  readonly #rest: Pick<RestClient, 'giveRightsLeave'>;
  readonly #line: SealedLine<AdministratorRightsMessage>;
  readonly #answers: OpenAnswers;
  readonly #off: () => void;

  constructor(connection: LiveConnection, rest: Pick<RestClient, 'giveRightsLeave'>) {
    this.#connection = connection;
    this.#rest = rest;
    this.#answers = new OpenAnswers(connection.clock, () => undefined, ANSWER_MS);
    this.#line = new SealedLine(connection, administratorRightsChannel);
    this.#off = this.#line.listen(
      ({ message }) => this.#take(message),
      (from) => from.id === connection.state.holderId,
    );
  }

  wanted(what: string): RightsWanted {
    return { raiseId: randomId(this.#connection.random), what };
  }

  ways(): Promise<RightsWays> {
    const id = randomId(this.#connection.random);
    return this.#answers.wait<RightsWays>(id, () => this.#send({ type: 'ways', id }));
  }

  /** Asks the desk for its yes, and a second person of it where it wants one; `reason`: outside of the hours for it. */
  askLeave({ raiseId, what }: RightsWanted, reason?: string): Promise<void> {
    return askLeave(this.#connection, { actId: raiseId, act: RAISE_RISK, name: what }, reason);
  }

  /** Resolves once they are raised: where somebody types a password there, once they have. Throws what the service refuses. */
  async raise(
    { raiseId, what }: RightsWanted,
    way: RightsWay,
    { installed }: Pick<RightsWays, 'installed'>,
  ): Promise<void> {
    const { sessionId, participantId } = this.#connection;
    if (way === 'desk' && installed)
      await this.#rest.giveRightsLeave(sessionId, { raiseId, participantId, ...installed });
    await this.#answers.wait<undefined>(raiseId, () => this.#send({ type: 'raise', id: raiseId, way, what }));
  }

  /** Gives them back. */
  lower(raiseId: string): void {
    this.#send({ type: 'lower', id: raiseId });
  }

  close(): void {
    this.#off();
    this.#answers.close();
  }

  #send(message: AdministratorRightsMessage): boolean {
    const holder = consentHolderOf(this.#connection.state);
    return holder !== undefined && this.#line.send(holder.seat, message);
  }
  #take(message: AdministratorRightsMessage): void {
    if (message.type === 'possible') {
      const { id, password, installed, isCareful } = message;
      this.#answers.resolve(id, { password, installed, isCareful: isCareful === true } satisfies RightsWays);
    } else if (message.type === 'raised') this.#answers.resolve(message.id, undefined);
    else if (message.type === 'refused') this.#answers.reject(message.id, new RightsRefusedThere(message.why));
  }
}
