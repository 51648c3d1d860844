import type { Language } from '@porch/core';
import type { KnowledgeNoteView } from '@porch/wire';
import { In, type DataSource } from 'typeorm';
import { skippedBy, skipping } from '../../http/skipping-cursor.ts';
import { KnowledgeNoteEntity } from './knowledge-note-table.ts';
import { allOf, anyOf, foundBy, inAnyLanguage, perLanguage } from './note-words.ts';
import { viewOf } from './note-view.ts';

/** Beside a session stand no more than these. */
const MAX_BESIDE = 5;
/** Of those with any word in common, so many of the best are weighed one by one. */
const LOOKED_AT = 200;
/** A word of the title counts so much more than one of the text; so does the topic, and the label. */
const TITLE_WORTH = 2;
const TOPIC_WORTH = 2;
/** What is worth less has nothing to do with it: a single word, even of its title. */
const LEAST_WORTH = 4;

export interface NoteSearch {
  readonly words?: string | undefined;
  readonly name?: string | undefined;
  readonly topic?: string | undefined;
  readonly language?: Language | undefined;
  readonly state?: 'draft' | 'reviewed' | undefined;
  readonly limit: number;
  readonly cursor?: string | undefined;
}
/** What is known of a session that notes are looked for. */
export interface AboutSession {
  readonly words: string;
  readonly topic: string | undefined;
  readonly label: string | undefined;
  /** Of whoever reads them: of a note in several languages this one is found. */
  readonly language: Language;
}

/** Finds knowledge notes by words, each language by its own stems. */
export class NoteFinder {
  readonly #records: DataSource;

  constructor(records: DataSource) {
    this.#records = records;
  }

  /** With words the best first, else the last written. Throws CURSOR_UNKNOWN. */
  async find({ limit, cursor, ...search }: NoteSearch): Promise<{ items: KnowledgeNoteView[]; next?: string }> {
    const skipped = skippedBy(search, cursor);
    const asked = allOf(search.words ?? '');
    // Somebody typed something, and nothing of it is a word.
    if (!asked && search.words?.trim()) return { items: [] };
    const values: unknown[] = [];
    const value = (one: unknown) => `$${values.push(one)}`;
    const conditions = [`n."state" = ANY(${value(search.state ? [search.state] : ['draft', 'reviewed'])})`];
    if (search.name !== undefined) conditions.push(`n."name" = ${value(search.name)}`);
    if (search.topic !== undefined) conditions.push(`n."topic" = ${value(search.topic)}`);
    if (search.language !== undefined) conditions.push(`n."language" = ${value(search.language)}`);
    let order = `n."written_at" DESC`;
    if (asked) {
      const query = value(asked);
      conditions.push(inAnyLanguage((configuration) => `n."words" @@ to_tsquery(${configuration}, ${query})`));
      order = `ts_rank_cd(n."words", ${perLanguage((configuration) => `to_tsquery(${configuration}, ${query})`)}) DESC, ${order}`;
    }
    const rows = await this.#records.query<{ id: string }[]>(
      `SELECT n."id" FROM "knowledge_note" n WHERE ${conditions.join(' AND ')} ORDER BY ${order}, n."id" LIMIT ${value(limit + 1)} OFFSET ${value(skipped)}`,
      values,
    );
    const items = await this.#views(rows.slice(0, limit).map(({ id }) => id));
    if (rows.length <= limit) return { items };
    return { items, next: skipping(search, skipped + limit) };
  }

  /** Reviewed notes that fit, the best first, each in one language. Nobody has to type anything. */
  async besideSession({ words, topic, label, language }: AboutSession): Promise<KnowledgeNoteView[]> {
    const asked = anyOf(words);
    if (!asked) return [];
    const hits = (weights: string) => (configuration: string) =>
      `(SELECT count(*) FROM unnest(tsvector_to_array(${weights})) w WHERE w = ANY(tsvector_to_array(to_tsvector(${configuration}, $1))))`;
    const rows = await this.#records.query<{ id: string; name: string }[]>(
      `SELECT "id", "name", worth FROM (
         SELECT n."id", n."name", n."language", n."written_at",
                ${perLanguage(hits(`n."words"`))} + ${TITLE_WORTH} * ${perLanguage(hits(`ts_filter(n."words", '{a}')`))}
                + CASE WHEN n."topic" = $3 THEN ${TOPIC_WORTH} ELSE 0 END
                + CASE WHEN lower($4) = ANY(SELECT lower(l) FROM unnest(n."labels") l) THEN ${TOPIC_WORTH} ELSE 0 END AS worth
           FROM (SELECT * FROM "knowledge_note" n
                  WHERE n."state" = 'reviewed' AND ${inAnyLanguage((configuration) => `n."words" @@ to_tsquery(${configuration}, $2)`)}
                  ORDER BY ts_rank(n."words", ${perLanguage((configuration) => `to_tsquery(${configuration}, $2)`)}) DESC LIMIT ${LOOKED_AT}) n) found
        WHERE worth >= ${LEAST_WORTH} ORDER BY worth DESC, ("language" = $5) DESC, "written_at" DESC LIMIT ${MAX_BESIDE * 3}`,
      [foundBy(words), asked, topic ?? null, label ?? null, language],
    );
    const best = new Map<string, string[]>();
    for (const { id, name } of rows) best.set(name, [...(best.get(name) ?? []), id]);
    const views = await this.#views(rows.map(({ id }) => id));
    return [...best.values()].slice(0, MAX_BESIDE).flatMap((ids) => {
      const inLanguages = views.filter(({ id }) => ids.includes(id));
      return inLanguages.find((view) => view.language === language) ?? inLanguages[0] ?? [];
    });
  }

  /** In this order. */
  async #views(ids: readonly string[]): Promise<KnowledgeNoteView[]> {
    if (!ids.length) return [];
    const rows = await this.#records.getRepository(KnowledgeNoteEntity).findBy({ id: In([...ids]) });
    return ids.flatMap((id) => rows.find((row) => row.id === id) ?? []).map(viewOf);
  }
}
