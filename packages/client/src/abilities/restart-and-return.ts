import { consentHolderOf, restartRiskOf, type RestartHit, type RestartHow } from '@porch/core';
import { randomId, restartChannel, signBytes, signInOrderBytes, type RestartMessage } from '@porch/wire';
import { askLeave } from '../ask-leave.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { OpenAnswers } from '../open-answers.ts';
import { RefusedThere } from '../refused-there.ts';
import { SealedLine } from '../sealed-line.ts';

/** The customer's side said no, in its own words. */
export class RestartRefusedThere extends RefusedThere {}

/** What a restart would meet at their computer, and in which ways it could be done. */
export interface RestartOutlookThere {
  readonly computer: string;
  readonly account: string;
  readonly hits: readonly { readonly hit: RestartHit; readonly count?: number | undefined }[];
  readonly hows: readonly RestartHow[];
  readonly canSignIn: boolean;
  readonly isCareful: boolean;
}
export interface RestartWanted {
  readonly restartId: string;
  readonly how: RestartHow;
  /** The account is signed in once by itself. */
  readonly signsIn: boolean;
}

/** Somebody reads what it meets, saves their work, and answers. */
const ANSWER_MS = 3 * 60_000;

/** The technician's side of a restart. Everything rejects with RestartRefusedThere when the customer's side says no. */
export class TechnicianRestart {
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<RestartMessage>;
  readonly #answers: OpenAnswers;
  readonly #off: () => void;

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#answers = new OpenAnswers(connection.clock, () => undefined, ANSWER_MS);
    this.#line = new SealedLine(connection, restartChannel);
    this.#off = this.#line.listen(
      ({ message }) => this.#take(message),
      (from) => from.id === connection.state.holderId,
    );
  }

  wanted(how: RestartHow, signsIn: boolean): RestartWanted {
    return { restartId: randomId(this.#connection.random), how, signsIn };
  }

  look(): Promise<RestartOutlookThere> {
    const id = randomId(this.#connection.random);
    return this.#answers.wait<RestartOutlookThere>(id, () => this.#send({ type: 'look', id }));
  }

  /** Asks the desk for its yes, and a second person of it where it wants one; `reason`: outside of the hours for it. */
  askLeave({ restartId, how }: RestartWanted, { computer }: RestartOutlookThere, reason?: string): Promise<void> {
    return askLeave(this.#connection, { actId: restartId, act: restartRiskOf(how), name: computer }, reason);
  }

  /** Resolves once the person there said yes, and it goes down. */
  async restart({ restartId: id, how, signsIn }: RestartWanted, { account }: RestartOutlookThere): Promise<void> {
    const { keys, sessionId } = this.#connection;
    const signed = {
      signsIn: true as const,
      signature: signBytes(keys, signInOrderBytes({ sessionId, orderId: id, account })),
    };
    await this.#answers.wait<undefined>(id, () => this.#send({ type: 'restart', id, how, ...(signsIn ? signed : {}) }));
  }

  /** Thought better of, while the person there is asked. */
  drop({ restartId }: RestartWanted): void {
    this.#send({ type: 'drop', id: restartId });
  }

  close(): void {
    this.#off();
    this.#answers.close();
  }

  #send(message: RestartMessage): boolean {
    const holder = consentHolderOf(this.#connection.state);
    return holder !== undefined && this.#line.send(holder.seat, message);
  }
  #take(message: RestartMessage): void {
    if (message.type === 'hits') {
      const { id, type: _type, isCareful, ...outlook } = message;
      this.#answers.resolve(id, { ...outlook, isCareful: isCareful === true } satisfies RestartOutlookThere);
    } else if (message.type === 'begun') this.#answers.resolve(message.id, undefined);
    else if (message.type === 'refused') this.#answers.reject(message.id, new RestartRefusedThere(message.why));
  }
}
