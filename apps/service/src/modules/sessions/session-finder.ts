import { createHash } from 'node:crypto';
import { mayDo, searchWords } from '@porch/core';
import { AppError, type SessionSearch } from '@porch/wire';
import type { DataSource } from 'typeorm';
import { z } from 'zod';
import type { Technician, Technicians } from '../people/technician.ts';

/** What is asked for beyond this many words adds nothing. */
const MAX_WORDS = 12;
/** With words, so many of the newest are looked through one by one. */
const LOOKED_THROUGH = 2_000;
/** Where so much of a page was found among them, the rest is a few times as far. */
const USUAL_SHARE = 8;
/** Beyond them, sessions are found by so many of the words, the rarest. */
const WORDS_LED_BY = 2;
/** Up to so many are taken by those; of more, all are looked through from the newest on. */
const FEW_BY_WORDS = 4_000;

interface Place {
  readonly atMs: number;
  readonly id: string;
}
const Cursor = z.tuple([z.number(), z.uuid(), z.string()]);

/** Which question a cursor belongs to: in another list it would be nowhere. */
const questionOf = ({ cursor: _, limit: __, ...question }: SessionSearch): string =>
  createHash('sha256')
    .update(JSON.stringify(Object.entries(question).sort(([a], [b]) => (a < b ? -1 : 1))))
    .digest('base64url')
    .slice(0, 12);

const encodeCursor = ({ atMs, id }: Place, question: string): string =>
  Buffer.from(JSON.stringify([atMs, id, question])).toString('base64url');

/** Throws CURSOR_UNKNOWN for what is none, or of another question. */
function decodeCursor(text: string, question: string): Place {
  let cursor;
  try {
    cursor = Cursor.parse(JSON.parse(Buffer.from(text, 'base64url').toString('utf8')));
  } catch (cause) {
    throw new AppError('CURSOR_UNKNOWN', {}, { cause });
  }
  const [atMs, id, of] = cursor;
  if (of !== question) throw new AppError('CURSOR_UNKNOWN');
  return { atMs, id };
}

/** A table that has sessions in their order, once each, and which of its rows `d`. */
interface Related {
  readonly table: string;
  readonly sql: string;
}

/** Conditions on a row `s` of sessions, with their values. */
class Conditions {
  readonly values: unknown[] = [];
  readonly related: Related[] = [];
  readonly #parts: string[] = [];

  /** Hands back what stands for the value in SQL. */
  value(value: unknown): string {
    this.values.push(value);
    return `$${this.values.length}`;
  }
  /** Nothing for what is not asked. */
  add(sql: (value: string) => string, value: unknown): void {
    if (value !== undefined) this.#parts.push(sql(this.value(value)));
  }
  /** Something beside the session has to be there, too. */
  relate(table: string, sql: string): void {
    this.related.push({ table, sql });
  }
  get sql(): string {
    return this.#parts.length ? this.#parts.join(' AND ') : 'true';
  }
}

interface Question {
  readonly me: Technician;
  readonly search: SessionSearch;
  readonly after: Place | undefined;
  /** One more than a page: whether there is another. */
  readonly most: number;
}
interface Found {
  readonly id: string;
  readonly prepared_at: Date;
}
/** One of those that fit, if any, with what was learned on the way. */
interface Looked extends Partial<Found> {
  readonly looked: number;
  /** How many of them have each word. */
  readonly counts: readonly number[];
  readonly last_id: string | null;
  readonly last_at: Date | null;
}

export interface SessionFinderParts {
  readonly records: DataSource;
  readonly technicians: Technicians;
}

export interface FoundIds {
  readonly ids: string[];
  readonly next?: string;
}

/** Finds sessions in what is kept beside their ledgers: those that somebody may read, the last prepared first. */
export class SessionFinder {
  readonly #parts: SessionFinderParts;

  constructor(parts: SessionFinderParts) {
    this.#parts = parts;
  }

  /** Throws CURSOR_UNKNOWN. */
  async find(me: Technician, search: SessionSearch): Promise<FoundIds> {
    const question = questionOf(search);
    const after = search.cursor === undefined ? undefined : decodeCursor(search.cursor, question);
    const wanted = searchWords(search.words ?? '').slice(0, MAX_WORDS);
    // Somebody typed something, and nothing of it is a word.
    if (!wanted.length && search.words?.trim()) return { ids: [] };
    const whole: Question = { me, search, after, most: search.limit + 1 };
    const rows = wanted.length ? await this.#withWords(whole, wanted) : await this.#newest(whole);
    const page = rows.slice(0, search.limit);
    const last = page.at(-1);
    return {
      ids: page.map(({ id }) => id),
      ...(rows.length > search.limit && last
        ? { next: encodeCursor({ atMs: last.prepared_at.getTime(), id: last.id }, question) }
        : {}),
    };
  }

  /** Which of these somebody may read. */
  async readable(me: Technician, ids: readonly string[]): Promise<ReadonlySet<string>> {
    const where = new Conditions();
    where.add((all) => `s."id" = ANY(${all})`, ids);
    const rows = await this.#parts.records.query<Found[]>(this.#readable({ me }, where, ids.length), where.values);
    return new Set(rows.map(({ id }) => id));
  }

  #newest(question: Question): Promise<Found[]> {
    const where = filtered(question);
    const sql = this.#readable(question, where, question.most);
    return this.#parts.records.query<Found[]>(sql, where.values);
  }

  /**
   * First the newest that fit otherwise are looked through: that finds what is usual, and all there is when those are all.
   * What is rarer is found by the rarest of its words, as rare as they were in those.
   */
  async #withWords(question: Question, wanted: readonly string[]): Promise<Found[]> {
    const { records } = this.#parts;
    const asked = wanted.map(lexemeOf);
    const all = asked.join(' & ');
    const where = filtered(question);
    const candidates = this.#readable(question, where, LOOKED_THROUGH);
    const counts = asked.map((one) => `count(*) FILTER (WHERE w."words" @@ ${where.value(one)}::tsquery)::int`);
    const rows = await records.query<Looked[]>(
      // OFFSET 0: each by itself, and not all that have the words first.
      `WITH c AS MATERIALIZED (${candidates}),
            w AS MATERIALIZED (SELECT c."id", c."prepared_at", x."words" FROM c CROSS JOIN LATERAL
                     (SELECT "words" FROM "session_words" WHERE "session_id" = c."id" OFFSET 0) x),
            hit AS (SELECT "id", "prepared_at" FROM w WHERE "words" @@ ${where.value(all)}::tsquery
                     ORDER BY "prepared_at" DESC, "id" DESC LIMIT ${question.most})
       SELECT (SELECT count(*)::int FROM c) AS looked, k.counts, l."id" AS last_id, l."prepared_at" AS last_at, hit."id", hit."prepared_at"
         FROM (SELECT ARRAY[${counts.join(', ')}] AS counts FROM w) k
         LEFT JOIN (SELECT * FROM c ORDER BY "prepared_at", "id" LIMIT 1) l ON true LEFT JOIN hit ON true
        ORDER BY hit."prepared_at" DESC, hit."id" DESC`,
      where.values,
    );
    const found = rows.flatMap(({ id, prepared_at }) => (id && prepared_at ? [{ id, prepared_at }] : []));
    const [first] = rows;
    const isAll = found.length === question.most || (first?.looked ?? 0) < LOOKED_THROUGH;
    if (isAll || !first?.last_at || !first.last_id) return found;
    const rest: Question = {
      ...question,
      after: { atMs: first.last_at.getTime(), id: first.last_id },
      most: question.most - found.length,
    };
    if (found.length * USUAL_SHARE >= question.most) return [...found, ...(await this.#lookThrough(rest, all))];
    const rarest = asked
      .map((one, at) => ({ one, count: first.counts[at] ?? 0 }))
      .sort((a, b) => a.count - b.count)
      .slice(0, WORDS_LED_BY)
      .map(({ one }) => one);
    return [...found, ...(await this.#ledByWords(rest, rarest.join(' & '), all))];
  }

  async #ledByWords(question: Question, rarest: string, all: string): Promise<Found[]> {
    const { records } = this.#parts;
    const few = await records.query<{ id: string }[]>(
      `SELECT "session_id" AS id FROM "session_words" WHERE "words" @@ $1::tsquery LIMIT $2`,
      [rarest, FEW_BY_WORDS + 1],
    );
    return this.#lookThrough(question, all, few.length <= FEW_BY_WORDS ? few.map(({ id }) => id) : undefined);
  }

  /** From the newest on, or of these alone. */
  #lookThrough(question: Question, all: string, only?: readonly string[]): Promise<Found[]> {
    const where = filtered(question);
    where.add((ids) => `s."id" = ANY(${ids})`, only);
    where.add(
      (words) =>
        `EXISTS (SELECT 1 FROM "session_words" w WHERE w."session_id" = s."id" AND w."words" @@ ${words}::tsquery OFFSET 0)`,
      all,
    );
    return this.#parts.records.query<Found[]>(this.#readable(question, where, question.most), where.values);
  }

  /** The table's "read a session" as a query: everything for who may read it all; else theirs, and those that they lead. */
  #readable({ me }: Pick<Question, 'me'>, where: Conditions, most: number): string {
    // What has the fewest of those in question is worth beginning with where everybody's are.
    if (mayDo(me, 'read a session')) return newestFirst(where.related[0], where, most);
    const mine: Related = { table: 'session_person', sql: `d."technician_id" = ${where.value(me.id)}` };
    const theirs = newestFirst(mine, where, most);
    const led = [...this.#parts.technicians.values()]
      .filter((t) => t.id !== me.id && mayDo(me, 'read a session', { ownerId: t.id, ownerTeam: t.team }))
      .map((t) => t.id);
    if (!led.length) return theirs;
    const owned = newestFirst(undefined, where, most, `s."technician_id" = ANY(${where.value(led)})`);
    return `SELECT DISTINCT "id", "prepared_at" FROM ((${theirs}) UNION ALL (${owned})) found ORDER BY "prepared_at" DESC, "id" DESC LIMIT ${most}`;
  }
}

function newestFirst(from: Related | undefined, where: Conditions, most: number, more = 'true'): string {
  const others = where.related
    .filter((one) => one !== from)
    .map(({ table, sql }) => `EXISTS (SELECT 1 FROM "${table}" d WHERE d."session_id" = s."id" AND ${sql})`);
  const all = [more, where.sql, ...others].join(' AND ');
  if (!from)
    return `SELECT s."id", s."prepared_at" FROM "session" s WHERE ${all} ORDER BY s."prepared_at" DESC, s."id" DESC LIMIT ${most}`;
  return `SELECT s."id", s."prepared_at" FROM "${from.table}" d JOIN "session" s ON s."id" = d."session_id"
    WHERE ${from.sql} AND ${all} ORDER BY d."prepared_at" DESC, d."session_id" DESC LIMIT ${most}`;
}

/** All that is asked for but the words. */
function filtered({ search, after }: Question): Conditions {
  const where = new Conditions();
  where.add((phase) => `s."phase" = ${phase}`, search.phase);
  where.add((outcome) => `s."outcome" = ${outcome}`, search.outcome);
  where.add((ref) => `lower(s."ticket_ref") = lower(${ref})`, search.ticket);
  where.add((device) => `s."device_id" = ${device}`, search.device);
  where.add((from) => `s."prepared_at" >= ${from}`, search.from);
  where.add((to) => `s."prepared_at" < ${to}`, search.to);
  // Those with the fewest first.
  if (search.files) where.relate('session_files', 'true');
  if (search.technician !== undefined)
    where.relate('session_person', `d."technician_id" = ${where.value(search.technician)}`);
  if (search.permission !== undefined)
    where.relate('session_permission', `d."permission" = ${where.value(search.permission)}`);
  if (search.idStart !== undefined) {
    const start = search.idStart.toLowerCase();
    where.add((first) => `s."id" >= ${first}::uuid`, filled(start, '0'));
    where.add((last) => `s."id" <= ${last}::uuid`, filled(start, 'f'));
  }
  if (after) {
    const id = where.value(after.id);
    where.add((at) => `(s."prepared_at", s."id") < (${at}::timestamptz, ${id}::uuid)`, new Date(after.atMs));
  }
  return where;
}

/** As PostgreSQL's text search asks for it. Letters and digits alone: nothing in them has a meaning there. */
const lexemeOf = (word: string): string =>
  // One letter begins too many words to mean them.
  `'${word}'${[...word].length > 1 ? ':*' : ''}`;

/** An id that begins so, and goes on with nothing but this. */
function filled(start: string, digit: string): string {
  const digits = start.replace(/-/g, '').padEnd(32, digit);
  return digits.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
}
