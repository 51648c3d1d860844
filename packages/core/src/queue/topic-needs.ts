import type { Language } from '../language.ts';

/** Whose work a topic is, and what one has to know for it. */
export interface TopicNeed {
  readonly team?: string;
  readonly skills: readonly string[];
}
export type TopicNeeds = ReadonlyMap<string, TopicNeed>;

/** Reads "On board = Ship Systems + radio; Printing = Pier Systems; Tides = + almanac". Throws with what is wrong. */
export function readTopicNeeds(text: string, topics: readonly string[]): TopicNeeds {
  const needs = new Map<string, TopicNeed>();
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

/** What a request is filed under, and how customers read it. */
export interface Topic {
  readonly topic: string;
  readonly words: Readonly<Record<Language, string>>;
}

/** Reads "Printing | Utskrift | Drucken, Signing in": English, which it is filed under, then Norwegian and German. */
export function readTopics(text: string): Topic[] {
  return text
    .split(',')
    .map((part) => part.split('|').map((word) => word.trim()))
    .flatMap(([topic = '', no, de]) =>
      topic ? [{ topic, words: { en: topic, no: no || topic, de: de || topic } }] : [],
    );
}
