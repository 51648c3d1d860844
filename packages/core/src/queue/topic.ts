import { z } from 'zod';
import type { Language } from '../language.ts';

/** What a request is filed under, how customers read it, whose work it is, and what one has to know for it. */
export interface Topic {
  readonly topic: string;
  readonly words: Readonly<Record<Language, string>>;
  readonly team?: string | undefined;
  readonly skills: readonly string[];
}

const NAME_CHARACTERS = 60;
const MOST_SKILLS = 20;
// Commas stand between them where several are typed.
const name = z
  .string()
  .trim()
  .min(1)
  .max(NAME_CHARACTERS)
  .regex(/^[^\p{Cc},|]+$/u, 'has a comma, a bar or a control character in it');
export const Topic = z.object({
  topic: name,
  words: z.object({ en: name, no: name, de: name }),
  team: name.optional(),
  skills: z.array(name).max(MOST_SKILLS),
}) satisfies z.ZodType<Topic>;

/** As the product comes. */
export const firstTopics =
  'Printing | Utskrift | Drucken, Signing in | Innlogging | Anmelden, Something else | Noe annet | Etwas anderes';

/**
 * Reads "Printing | Utskrift | Drucken, Signing in": English, which it is filed under, then Norwegian and German; and
 * "On board = Ship Systems + radio; Tides = + almanac": whose work it is and what one has to know. Throws with what is
 * wrong.
 */
export function readTopics(text: string, needsText = ''): Topic[] {
  const topics = text
    .split(',')
    .map((part) => part.split('|').map((word) => word.trim()))
    .flatMap(([topic = '', no, de]) =>
      topic ? [{ topic, words: { en: topic, no: no || topic, de: de || topic }, skills: [] }] : [],
    );
  const needs = readNeeds(
    needsText,
    topics.map(({ topic }) => topic),
  );
  return topics.map((topic) => Topic.parse({ ...topic, ...needs.get(topic.topic) }));
}

function readNeeds(text: string, topics: readonly string[]): Map<string, Pick<Topic, 'team' | 'skills'>> {
  const needs = new Map<string, Pick<Topic, 'team' | 'skills'>>();
  for (const part of text.split(';').map((p) => p.trim())) {
    if (!part) continue;
    const [topic = '', list = ''] = part.split('=').map((side) => side.trim());
    if (!topic || !list) throw new Error(`“${part}” is not like “On board = Ship Systems + radio”`);
    if (!topics.includes(topic)) throw new Error(`there is no topic “${topic}”`);
    const [team = '', ...skills] = list.split('+').map((word) => word.trim());
    needs.set(topic, { ...(team ? { team } : {}), skills: skills.filter(Boolean) });
  }
  return needs;
}
