import type { LiveConnection, LookChannel } from '@porch/client';
import { commitmentOf, MAX_WORD_TRIES, startOf, verificationWords, type LookMessage } from '@porch/wire';
import { randomBytes } from 'node:crypto';
import type { Logger } from 'pino';
import type { ConsentHolder } from './consent-holder.ts';
import { compareQuestion } from './questions.ts';

export interface WordsParts {
  readonly connection: LiveConnection;
  readonly holder: ConsentHolder;
  readonly look: LookChannel;
  readonly log: Logger;
}

interface Exchange {
  readonly nonce: string;
  technicianNonce: string | undefined;
  isAsked: boolean;
}

/**
 * The holder's side of the check words: commits to a nonce before it knows the technician's, then reveals it. One
 * try for each start of a technician's program, and few of them in all.
 */
export class WordsDesk {
  readonly #parts: WordsParts;
  readonly #exchanges = new Map<string, Exchange>();

  readonly #same = new Set<string>();

  constructor(parts: WordsParts) {
    this.#parts = parts;
  }

  /** Whether the person here heard the same words from this technician. */
  isSame(participantId: string): boolean {
    return this.#same.has(participantId);
  }

  /** Begins with each technician who has come to look. */
  follow(watchers: readonly { seat: number; start: string }[]): void {
    for (const { seat, start } of watchers) {
      if (this.#exchanges.has(start) || this.#exchanges.size >= MAX_WORD_TRIES) continue;
      const nonce = randomBytes(32).toString('hex');
      this.#exchanges.set(start, { nonce, technicianNonce: undefined, isAsked: false });
      const isSent = this.#parts.look.send(seat, { type: 'commit', commitment: commitmentOf(this.#me, nonce) });
      if (!isSent) this.#exchanges.delete(start);
    }
  }

  take(seat: number, message: LookMessage): void {
    const { connection, look } = this.#parts;
    const technician = Object.values(connection.state.participants).find((p) => p.seat === seat && !p.isGone);
    const exchange = technician && this.#exchanges.get(startOf(technician));
    if (!technician || !exchange) return;
    if (message.type === 'nonce') {
      // The first counts: a second nonce would be a second try.
      exchange.technicianNonce ??= message.nonce;
      look.send(seat, { type: 'reveal', nonce: exchange.nonce });
    } else if (message.type === 'askCompare' && exchange.technicianNonce && !exchange.isAsked) {
      exchange.isAsked = true;
      const { id, signKey, agreeKey } = technician;
      const words = verificationWords(
        {
          sessionId: connection.sessionId,
          holder: this.#me,
          technician: { id, signKey, agreeKey },
          holderNonce: exchange.nonce,
          technicianNonce: exchange.technicianNonce,
        },
        connection.state.language,
      );
      void this.#ask(id, technician.name ?? 'The technician', words)
        .catch((error: unknown) => this.#parts.log.warn({ err: error }, 'the words could not be compared'))
        .finally(() => (exchange.isAsked = false));
    }
  }

  async #ask(participantId: string, name: string, words: readonly string[]): Promise<void> {
    const isSame = await this.#parts.holder.askInTurn(
      compareQuestion(name, words, this.#parts.connection.state.language, this.#exchanges.size),
    );
    if (isSame === undefined) return;
    if (isSame) this.#same.add(participantId);
    this.#parts.holder.report((fact) => ({ type: 'compareWords', participantId, isSame, fact }));
    // Somebody sits in between: nothing of this session can be trusted any longer.
    if (!isSame) this.#parts.holder.stop('the words were not the same');
  }

  get #me() {
    const { participantId, keys } = this.#parts.connection;
    return { id: participantId, signKey: keys.signKey, agreeKey: keys.agreeKey };
  }
}
