import { SealedLine } from '@porch/client';
import { firstName, rulesOf } from '@porch/core';
import {
  checkWordsChannel,
  commitmentOf,
  MAX_WORD_TRIES,
  startOf,
  verificationWords,
  type CheckWordsMessage,
} from '@porch/wire';
import type { Language, Participant } from '@porch/core';
import { host } from '@porch/words/host';
import { bytesToHex } from '@noble/hashes/utils.js';
import { hints } from '../consent/questions.ts';
import type { HostAbility, Kit } from '../kit.ts';
import type { Question } from '../ports/question.ts';
import { isLooker, watchersOf } from '../watchers.ts';

/** Makes check words with whoever looks, and has the person here compare them. */
export const checkWords: HostAbility = {
  name: 'check-words',
  whyNot: () => undefined,
  begin(kit) {
    const desk = new WordsDesk(kit);
    // The second secret is bound to both programs' keys: whoever proved it needs no words.
    const areCompared = (participantId: string) => desk.isSame(participantId) || kit.shared.isProven(participantId);
    return {
      changed: () => desk.follow(watchersOf(kit)),
      refuses: ({ permissions, participantId }) =>
        kit.desk.controlNeedsComparedWords &&
        permissions.some((permission) => rulesOf(permission).isHandsOn) &&
        !areCompared(participantId),
      noteOn: (participantId) => (areCompared(participantId) ? undefined : kit.words.checkWords.notCompared),
      close: () => desk.close(),
    };
  },
};

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
  readonly #kit: Kit;
  readonly #line: SealedLine<CheckWordsMessage>;
  readonly #off: () => void;
  readonly #exchanges = new Map<string, Exchange>();

  readonly #same = new Set<string>();

  constructor(kit: Kit) {
    this.#kit = kit;
    this.#line = new SealedLine(kit.connection, checkWordsChannel);
    this.#off = this.#line.listen(
      ({ from, message }) => this.#take(from, message),
      (from) => isLooker(kit, from.signKey),
    );
  }

  close(): void {
    this.#off();
  }

  /** Whether the person here heard the same words from this technician. */
  isSame(participantId: string): boolean {
    return this.#same.has(participantId);
  }

  /** Begins with each technician who has come to look. */
  follow(watchers: readonly { seat: number; start: string }[]): void {
    for (const { seat, start } of watchers) {
      if (this.#exchanges.has(start) || this.#exchanges.size >= MAX_WORD_TRIES) continue;
      const nonce = bytesToHex(this.#kit.random.bytes(32));
      this.#exchanges.set(start, { nonce, technicianNonce: undefined, isAsked: false });
      const isSent = this.#line.send(seat, { type: 'commit', commitment: commitmentOf(this.#me, nonce) });
      if (!isSent) this.#exchanges.delete(start);
    }
  }

  #take(technician: Participant, message: CheckWordsMessage): void {
    const { connection, log } = this.#kit;
    const exchange = this.#exchanges.get(startOf(technician));
    if (technician.isGone || !exchange) return;
    if (message.type === 'nonce') {
      // The first counts: a second nonce would be a second try.
      exchange.technicianNonce ??= message.nonce;
      this.#line.send(technician.seat, { type: 'reveal', nonce: exchange.nonce });
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
      this.#ask(id, technician.name, words)
        .catch((error: unknown) => log.warn({ err: error }, 'the words could not be compared'))
        .finally(() => (exchange.isAsked = false));
    }
  }

  async #ask(participantId: string, name: string | undefined, words: readonly string[]): Promise<void> {
    const { language } = this.#kit.connection.state;
    const answer = await this.#kit.ask(compareQuestion(name, words, language, this.#exchanges.size));
    if (answer === undefined) return;
    const isSame = answer.what === 'yes';
    if (isSame) this.#same.add(participantId);
    this.#kit.report((fact) => ({ type: 'compareWords', participantId, isSame, fact }));
    // Somebody sits in between: nothing of this session can be trusted any longer.
    if (!isSame) this.#kit.stop('the words were not the same');
  }

  get #me() {
    const { participantId, keys } = this.#kit.connection;
    return { id: participantId, signKey: keys.signKey, agreeKey: keys.agreeKey };
  }
}

function compareQuestion(
  technicianName: string | undefined,
  words: readonly string[],
  language: Language,
  tries = 1,
): Question {
  const { kernel, checkWords: w } = host[language];
  const first = firstName(technicianName ?? kernel.technician);
  return {
    title: w.sameWords({ first }),
    lines: [words.join(' · '), w.readAloud({ first }), ...(tries > 1 ? [w.nthWords({ n: tries })] : [])],
    yes: w.same,
    no: w.other,
    ...hints(kernel),
  };
}
