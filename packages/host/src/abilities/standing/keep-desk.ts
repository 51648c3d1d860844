import { DAY_MS, hasWhatItNeeds, MAX_STANDING_DAYS, standingPermissions, type OpenAsk } from '@porch/core';
import { PASSPHRASE_WORDS, randomWords } from '@porch/wire';
import type { Kit, Plan } from '../../kit.ts';
import type { Answer, Question } from '../../ports/question.ts';
import type { KeepPort } from '../../ports/standing-port.ts';
import { dayChoices, daysQuestion, keepQuestion, secretQuestion } from './questions.ts';

/**
 * Makes a standing consent with the person here: three questions, and nothing pre-ticked but the least. Undefined when the
 * questions were taken away.
 */
export async function planToKeep(
  kit: Kit,
  port: KeepPort,
  ask: OpenAsk,
  put: (question: Question) => Promise<Answer | undefined>,
): Promise<Plan | 'no' | undefined> {
  const { state } = kit.connection;
  const { deskName } = kit.desk;
  const name = (state.asset ?? port.computer).slice(0, 60);
  const technician = state.participants[ask.participantId]?.name ?? '';
  const what = await put(keepQuestion(technician, deskName, name, state.language));
  if (what?.what !== 'yes') return what && 'no';
  const ticked = standingPermissions.filter((_, i) => what.choices[i]);
  const allowed = ticked.filter((p) => hasWhatItNeeds(p, (needed) => ticked.includes(needed)));
  if (!allowed.length) return 'no';
  const most = Math.min(port.mostDays, MAX_STANDING_DAYS);
  const howLong = await put(daysQuestion(most, state.language));
  if (howLong?.what !== 'yes') return howLong && 'no';
  const days = dayChoices(most)[howLong.choices.indexOf(true)];
  if (days === undefined) return 'no';
  const freshWords = () => randomWords(kit.random.bytes(PASSPHRASE_WORDS), state.language);
  let words = freshWords();
  let known = await put(secretQuestion(words, state.language));
  while (known?.what === 'more') {
    words = freshWords();
    known = await put(secretQuestion(words, state.language));
  }
  if (known?.what !== 'yes') return known && 'no';
  const madeAtMs = kit.time.wallMs();
  const consent = {
    name,
    allowed,
    madeAtMs,
    untilMs: madeAtMs + days * DAY_MS,
    asksEachVisit: what.choices[standingPermissions.length] ?? true,
  };
  return { carryOut: () => port.keep(consent, words) };
}
