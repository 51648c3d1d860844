import { consentHolderOf, standingOf } from '@porch/core';
import { desktopsChannel, randomId, type DesktopRow, type DesktopsMessage, type RingAnswer } from '@porch/wire';
import { isHolderThere } from '../holder-there.ts';
import { inBackground } from '../in-background.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { OpenAnswers } from '../open-answers.ts';
import { RefusedThere } from '../refused-there.ts';
import type { RestClient } from '../rest-client.ts';
import { SealedLine } from '../sealed-line.ts';

/** The customer's side said no, in its own words. */
export class RingRefusedThere extends RefusedThere {}

/** Somebody reads what it is about, and answers: a moment longer than they are asked for. */
const ANSWER_MS = 200_000;
/** The link for them works no longer than they are asked for. */
const LINK_MINUTES = 5;

/** The technician's side of the desktops of a computer: who is signed in there now, and asking one of them in. */
export class TechnicianDesktops {
  readonly #connection: LiveConnection;
  readonly #rest: Pick<RestClient, 'invite' | 'withdrawInvitation'>;
  readonly #onChanged: () => void;
  readonly #line: SealedLine<DesktopsMessage>;
  readonly #answers: OpenAnswers;
  readonly #offs: readonly (() => void)[];
  /** What is on its way, by its number. */
  readonly #ringing = new Set<string>();
  #rows: readonly DesktopRow[] | undefined;
  #hasLooked = false;

  constructor(
    connection: LiveConnection,
    rest: Pick<RestClient, 'invite' | 'withdrawInvitation'>,
    onChanged: () => void,
  ) {
    this.#connection = connection;
    this.#rest = rest;
    this.#onChanged = onChanged;
    this.#answers = new OpenAnswers(connection.clock, (id) => this.#ringing.delete(id), ANSWER_MS);
    this.#line = new SealedLine(connection, desktopsChannel);
    this.#offs = [
      this.#line.listen(
        ({ message }) => this.#take(message),
        (from) => from.id === connection.state.holderId,
      ),
      connection.on('entry', () => {
        this.#check();
        this.#look();
      }),
      connection.on('presence', () => this.#look()),
      // What was said while the line was away is said again.
      connection.on('caughtUp', () => {
        this.#hasLooked = false;
        this.#look();
      }),
    ];
    this.#look();
  }

  /** Who is signed in, the desktop in front first; undefined until that is known, and while it may not be. */
  get rows(): readonly DesktopRow[] | undefined {
    return this.#rows;
  }

  /**
   * Asks whoever is at that desktop in, by a link that is made for this alone and does not outlast it. Rejects with
   * RingRefusedThere when the customer's side says no, or with what the service refuses.
   */
  async ring(desktop: string, signal?: AbortSignal): Promise<RingAnswer> {
    const { sessionId } = this.#connection;
    if (!this.#may) throw new RingRefusedThere('the customer has not allowed it');
    const id = randomId(this.#connection.random);
    const { invitation, link } = await this.#rest.invite(sessionId, {
      ...{ way: 'link', minutes: LINK_MINUTES, uses: 1 },
    });
    const stop = () => this.#send({ type: 'stop', id });
    signal?.addEventListener('abort', stop, { once: true });
    let answer: RingAnswer | undefined;
    this.#ringing.add(id);
    try {
      answer = await this.#answers.wait<RingAnswer>(id, () => this.#send({ type: 'ring', id, desktop, link }));
      return answer;
    } finally {
      signal?.removeEventListener('abort', stop);
      if (answer !== 'came')
        inBackground('taking a link back', this.#rest.withdrawInvitation(sessionId, invitation.id));
    }
  }

  close(): void {
    this.#offs.forEach((off) => off());
    this.#answers.close();
  }

  get #may(): boolean {
    const { state, participantId } = this.#connection;
    return standingOf(state, participantId, 'call-desktops').name === 'allowed';
  }

  /** Once each time that it is allowed, and that the other side is there anew. */
  #look(): void {
    const may = this.#may;
    const isThere = this.#connection.status === 'live' && isHolderThere(this.#connection);
    if (!may && this.#rows) this.#tell(undefined);
    if (!may || !isThere) this.#hasLooked = false;
    else if (!this.#hasLooked) this.#hasLooked = this.#send({ type: 'look' });
  }

  /** What the ledger says of a ring ends it, too, where the answer never comes. */
  #check(): void {
    const { rings } = this.#connection.state.slices.desktops;
    for (const id of this.#ringing) {
      const { standing, why } = rings[id] ?? (this.#may ? { standing: 'rings' } : { standing: 'not-come' });
      if (standing === 'rings') continue;
      if (standing === 'came') this.#answers.resolve(id, 'came');
      // Why it failed is said in words by the answer.
      else if (why === undefined) this.#answers.reject(id, new RingRefusedThere('it is not allowed any longer'));
      else if (why !== 'failed') this.#answers.resolve(id, why);
    }
  }

  #tell(rows: readonly DesktopRow[] | undefined): void {
    this.#rows = rows;
    this.#onChanged();
  }
  #send(message: DesktopsMessage): boolean {
    const holder = consentHolderOf(this.#connection.state);
    return holder !== undefined && this.#line.send(holder.seat, message);
  }
  #take(message: DesktopsMessage): void {
    if (message.type === 'desktops') this.#tell(message.rows);
    else if (message.type === 'answer') this.#answers.resolve(message.id, message.how);
    else if (message.type === 'refused') this.#answers.reject(message.id, new RingRefusedThere(message.why));
  }
}
