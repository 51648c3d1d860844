import { DESK_TEAM, type Language } from '@porch/core';
import {
  AppError,
  type ImportedKnowledgeNote,
  type KnowledgeNote,
  type KnowledgeNoteBody,
  type KnowledgeNoteFile,
} from '@porch/wire';
import { randomUUID } from 'node:crypto';
import { In, type DataSource, type EntityManager } from 'typeorm';
import { permit } from '../../auth/permit.ts';
import { inTransaction } from '../../db/data-source.ts';
import type { Technician, Technicians } from '../people/technician.ts';
import { KnowledgeNoteEntity, type KnowledgeNoteRow } from './knowledge-note-table.ts';
import { noteOf } from './note-view.ts';
import { configurationOf, foundBy } from './note-words.ts';
import { readNoteFile, writeNoteFile } from './note-file.ts';

/** Of all names and languages; versions of before do not count. */
const MAX_NOTES = 5_000;
const inUse = In(['draft', 'reviewed']);

/** Knowledge notes: drafted by one, reviewed by another, in use until something better is. */
export class KnowledgeDesk {
  readonly #records: DataSource;
  readonly #technicians: Technicians;

  constructor(records: DataSource, technicians: Technicians) {
    this.#records = records;
    this.#technicians = technicians;
  }

  /** Throws NOTE_NOT_FOUND. */
  async read(id: string): Promise<KnowledgeNote> {
    return noteOf(await current(this.#records.manager, id));
  }

  /** A draft, beside what is in use. Throws NOTE_CHANGED when `basedOn` is not the last version, TOO_MANY_NOTES. */
  async write(me: Technician, note: KnowledgeNoteBody, basedOn: string | undefined): Promise<KnowledgeNote> {
    return inTransaction(this.#records, async (tx) => {
      const versions = await versionsOf(tx, note.name, note.language);
      const last =
        versions.find(({ state }) => state === 'draft') ?? versions.find(({ state }) => state === 'reviewed');
      if (last?.id !== basedOn) throw new AppError('NOTE_CHANGED');
      if (!last && (await tx.getRepository(KnowledgeNoteEntity).countBy({ state: inUse })) >= MAX_NOTES)
        throw new AppError('TOO_MANY_NOTES');
      if (last?.state === 'draft')
        await tx.getRepository(KnowledgeNoteEntity).update({ id: last.id }, { state: 'replaced' });
      return insertDraft(tx, me, note, versions[0]?.version ?? 0);
    });
  }

  /** It is in use from now on, and what was before no longer. Throws NOTE_NOT_FOUND, NOTE_OF_YOUR_OWN. */
  async review(me: Technician, id: string): Promise<KnowledgeNote> {
    return inTransaction(this.#records, async (tx) => {
      const row = await current(tx, id);
      if (row.state !== 'draft') return noteOf(row);
      if (row.authorId === me.id) throw new AppError('NOTE_OF_YOUR_OWN');
      await waitForTurn(tx, row.name, row.language);
      const rows = tx.getRepository(KnowledgeNoteEntity);
      await rows.update({ name: row.name, language: row.language, state: 'reviewed' }, { state: 'replaced' });
      const { affected } = await rows.update(
        { id, state: 'draft' },
        { state: 'reviewed', reviewerId: me.id, reviewerName: me.name, reviewedAt: new Date() },
      );
      if (!affected) throw new AppError('NOTE_NOT_FOUND');
      return noteOf(await current(tx, id));
    });
  }

  /** Whoever wrote it may, and whoever leads them. Throws NOTE_NOT_FOUND. */
  async withdraw(me: Technician, id: string): Promise<void> {
    const row = await current(this.#records.manager, id);
    permit(me, 'withdraw a knowledge note', {
      ownerId: row.authorId,
      ownerTeam: this.#technicians.get(row.authorId)?.team ?? DESK_TEAM,
    });
    const { affected } = await this.#records
      .getRepository(KnowledgeNoteEntity)
      .update({ id, state: inUse }, { state: 'withdrawn' });
    if (!affected) throw new AppError('NOTE_NOT_FOUND');
  }

  /** Each file by itself: what is wrong with one keeps none of the others out. */
  async bringIn(me: Technician, files: readonly KnowledgeNoteFile[]): Promise<ImportedKnowledgeNote[]> {
    const results: ImportedKnowledgeNote[] = [];
    for (const file of files) results.push({ file: file.name, ...(await this.#bringInOne(me, file)) });
    return results;
  }

  /** Everything that is in use. */
  async takeOut(): Promise<KnowledgeNoteFile[]> {
    const rows = await this.#records
      .getRepository(KnowledgeNoteEntity)
      .find({ where: { state: 'reviewed' }, order: { name: 'ASC', language: 'ASC' } });
    return rows.map((row) => writeNoteFile(noteOf(row)));
  }

  async #bringInOne(me: Technician, file: KnowledgeNoteFile): Promise<Omit<ImportedKnowledgeNote, 'file'>> {
    const note = readNoteFile(file);
    if (typeof note === 'string') return { result: 'refused', why: note };
    const { name, language } = note;
    const rows = await this.#records.getRepository(KnowledgeNoteEntity).findBy({ name, language, state: inUse });
    if (rows.some((row) => isSame(noteOf(row), note))) return { result: 'unchanged' };
    const draft = rows.find(({ state }) => state === 'draft');
    if (draft && draft.authorId !== me.id) return { result: 'refused', why: 'draft-open' };
    try {
      return { result: 'drafted', id: (await this.write(me, note, (draft ?? rows[0])?.id)).id };
    } catch (error) {
      if (!(error instanceof AppError)) throw error;
      return { result: 'refused', why: error.code === 'TOO_MANY_NOTES' ? 'too-many' : 'draft-open' };
    }
  }
}

const isSame = (a: KnowledgeNoteBody, b: KnowledgeNoteBody): boolean =>
  a.title === b.title && a.text === b.text && a.topic === b.topic && a.labels.join('\n') === b.labels.join('\n');

async function current(tx: EntityManager, id: string): Promise<KnowledgeNoteRow> {
  const row = await tx.getRepository(KnowledgeNoteEntity).findOneBy({ id, state: inUse });
  if (!row) throw new AppError('NOTE_NOT_FOUND');
  return row;
}

/** Who writes or reviews a note waits for whoever does the same right now. */
const waitForTurn = (tx: EntityManager, name: string, language: Language): Promise<unknown> =>
  tx.query(`SELECT pg_advisory_xact_lock(hashtext('knowledge note'), hashtext($1))`, [`${name} ${language}`]);

/** All there ever were, the newest first. */
async function versionsOf(tx: EntityManager, name: string, language: Language) {
  await waitForTurn(tx, name, language);
  return tx.getRepository(KnowledgeNoteEntity).find({
    where: { name, language },
    select: { id: true, version: true, state: true },
    order: { version: 'DESC' },
  });
}

async function insertDraft(
  tx: EntityManager,
  me: Technician,
  note: KnowledgeNoteBody,
  last: number,
): Promise<KnowledgeNote> {
  const id = randomUUID();
  const { name, language, topic, labels, title, text } = note;
  await tx.query(
    `INSERT INTO "knowledge_note" ("id", "name", "language", "version", "state", "topic", "labels", "title", "text", "author_id", "author_name", "written_at", "words")
     VALUES ($1, $2, $3, $4, 'draft', $5, $6, $7, $8, $9, $10, clock_timestamp(),
             setweight(to_tsvector($11::regconfig, $12), 'A') || to_tsvector($11::regconfig, $13))`,
    [
      ...[id, name, language, last + 1, topic ?? null, labels, title, text, me.id, me.name],
      ...[configurationOf(language), foundBy(title), foundBy([text, topic ?? '', ...labels].join(' '))],
    ],
  );
  return noteOf(await current(tx, id));
}
