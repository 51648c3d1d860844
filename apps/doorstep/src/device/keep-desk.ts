import {
  DAY_MS,
  hasWhatItNeeds,
  MAX_SECRET_TRIES,
  MAX_STANDING_DAYS,
  standingPermissions,
  StandingConsent,
  type OpenAsk,
} from '@porch/core';
import type { LiveConnection, RestClient } from '@porch/client';
import { makeKeys, randomWords, scalarOfSecret, PASSPHRASE_WORDS } from '@porch/wire';
import { randomBytes } from 'node:crypto';
import type { Answer, Question } from '../desktop/desktop.ts';
import { dayChoices, daysQuestion, keepQuestion, secretQuestion } from './device-questions.ts';
import type { StandingStore } from './standing-store.ts';

/** What the person here decided, before anything of it is written down. */
export interface KeepPlan {
  readonly consent: StandingConsent;
  readonly words: readonly string[];
}

export interface KeepParts {
  readonly connection: LiveConnection;
  readonly rest: RestClient;
  readonly store: StandingStore;
  readonly serviceUrl: string;
  readonly deskName: string;
  /** The most the desk allows. */
  readonly mostDays: number;
  /** What this computer is called when no ticket names it. */
  readonly computer: string;
  /** A standing consent has been made: somebody has to wait for visits from now on. */
  onKept(): void;
}

/** Makes a standing consent with the person at this desktop: three questions, and nothing pre-ticked but the least. */
export class KeepDesk {
  readonly #parts: KeepParts;

  constructor(parts: KeepParts) {
    this.#parts = parts;
  }

  /** Undefined when the questions were taken away. */
  async plan(
    ask: OpenAsk,
    put: (question: Question) => Promise<Answer | undefined>,
  ): Promise<KeepPlan | 'no' | undefined> {
    const { connection, deskName, mostDays, computer } = this.#parts;
    const { state } = connection;
    const name = (state.asset ?? computer).slice(0, 60);
    const technician = state.participants[ask.participantId]?.name ?? '';
    const what = await put(keepQuestion(technician, deskName, name, state.language));
    if (what?.what !== 'yes') return what && 'no';
    const ticked = standingPermissions.filter((_, i) => what.choices[i]);
    const allowed = ticked.filter((p) => hasWhatItNeeds(p, (needed) => ticked.includes(needed)));
    if (!allowed.length) return 'no';
    const most = Math.min(mostDays, MAX_STANDING_DAYS);
    const howLong = await put(daysQuestion(most, state.language));
    if (howLong?.what !== 'yes') return howLong && 'no';
    const days = dayChoices(most)[howLong.choices.indexOf(true)];
    if (days === undefined) return 'no';
    let words = randomWords(randomBytes(PASSPHRASE_WORDS), state.language);
    let known = await put(secretQuestion(words, state.language));
    while (known?.what === 'more') {
      words = randomWords(randomBytes(PASSPHRASE_WORDS), state.language);
      known = await put(secretQuestion(words, state.language));
    }
    if (known?.what !== 'yes') return known && 'no';
    const madeAtMs = Date.now();
    return {
      consent: {
        name,
        allowed,
        madeAtMs,
        untilMs: madeAtMs + days * DAY_MS,
        asksEachVisit: what.choices[standingPermissions.length] ?? true,
      },
      words,
    };
  }

  /** Tells the desk, and writes down what is needed to let visits in: never the words themselves. */
  async carryOut({ consent, words }: KeepPlan): Promise<void> {
    const { rest, store, serviceUrl, deskName } = this.#parts;
    const { signSecret, signKey } = makeKeys();
    const salt = randomBytes(16).toString('hex');
    const scalar = await scalarOfSecret(words.join(' '), salt);
    const { deviceId } = await rest.keepDevice({ consent: StandingConsent.parse(consent), signKey });
    store.write({
      version: 1,
      uid: process.getuid?.() ?? -1,
      serviceUrl,
      deskName,
      deviceId,
      signSecret: Buffer.from(signSecret).toString('hex'),
      consent,
      salt,
      scalar,
      triesLeft: MAX_SECRET_TRIES,
    });
    this.#parts.onKept();
  }
}
