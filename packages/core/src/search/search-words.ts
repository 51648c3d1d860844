import type { SessionEvent } from '../session/session-events.ts';

/** Longer ones are cut: nobody types more to find something. */
export const MAX_WORD_CHARACTERS = 32;

/** A run of letters and digits of any script, or one picture. */
const word = /[\p{L}\p{N}]+|\p{Extended_Pictographic}/gu;

/**
 * The words of a text as they are looked for: without case, accents or what stands between them, so that "Skår" and "skar"
 * are one. Each once, in the order in which they came (Unicode compatibility decomposition, UAX #15).
 */
export function searchWords(text: string): string[] {
  const plain = text.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase();
  return [...new Set((plain.match(word) ?? []).map((found) => [...found].slice(0, MAX_WORD_CHARACTERS).join('')))];
}

function* textsIn(value: unknown): Generator<string> {
  if (typeof value === 'string') yield value;
  else if (typeof value === 'object' && value !== null) for (const part of Object.values(value)) yield* textsIn(part);
}

/** By what a session can be found after this: whatever a person said or is called in it, its ticket, its outcome. */
export function wordsOf(event: SessionEvent): string[] {
  const said = 'personal' in event ? [...textsIn(event.personal)] : [];
  const ticket = 'ticketRef' in event && event.ticketRef !== undefined ? [event.ticketRef] : [];
  const outcome = event.type === 'outcomeLogged' ? [event.outcome] : [];
  return searchWords([...said, ...ticket, ...outcome].join(' '));
}
