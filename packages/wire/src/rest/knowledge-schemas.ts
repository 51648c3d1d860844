import { Language } from '@porch/core';
import { z } from 'zod';
import { Moment } from './moment.ts';
import { SessionView } from './rest-schemas.ts';

/* What is looked up beside a session: what was before, and what the desk wrote down about faults. */

export const MAX_NOTE_CHARACTERS = 20_000;
export const MAX_NOTE_LABELS = 10;
/** Files that are brought in at once. */
export const MAX_IMPORTED_NOTES = 200;

/** What a note is called in files and by programs; the same in every language. */
export const KnowledgeNoteName = z
  .string()
  .regex(/^[a-z0-9][a-z0-9-]{0,79}$/, 'small letters, digits and hyphens, 80 at most');

/** What a note says, in one language. */
export const KnowledgeNoteBody = z.strictObject({
  name: KnowledgeNoteName,
  language: Language,
  /** What it is about, as the desk's topics are called; none: of no topic. */
  topic: z.string().trim().min(1).max(80).optional(),
  /** Kinds of device that it is for, as ticket systems label them. */
  labels: z.array(z.string().trim().min(1).max(40)).max(MAX_NOTE_LABELS).default([]),
  title: z.string().trim().min(1).max(120),
  /** Markdown (CommonMark). */
  text: z.string().trim().min(1).max(MAX_NOTE_CHARACTERS),
});
export type KnowledgeNoteBody = z.output<typeof KnowledgeNoteBody>;
/** With the version that whoever writes has seen; another one since is NOTE_CHANGED. */
export const NewKnowledgeNote = KnowledgeNoteBody.extend({ basedOn: z.uuid().optional() });

export const KnowledgeNoteView = KnowledgeNoteBody.omit({ text: true }).extend({
  /** Of this version. */
  id: z.uuid(),
  version: z.number(),
  state: z.enum(['draft', 'reviewed']),
  authorId: z.string(),
  authorName: z.string(),
  writtenAtMs: Moment,
  reviewerName: z.string().optional(),
  /** The beginning of its text, without marks. */
  excerpt: z.string(),
});
export type KnowledgeNoteView = z.output<typeof KnowledgeNoteView>;
export const KnowledgeNote = KnowledgeNoteView.extend({ text: z.string() });
export type KnowledgeNote = z.output<typeof KnowledgeNote>;

/** A note as a file: front matter in YAML, then Markdown. */
export const KnowledgeNoteFile = z.strictObject({ name: z.string().max(200), text: z.string().max(40_000) });
export type KnowledgeNoteFile = z.output<typeof KnowledgeNoteFile>;
export const KnowledgeNoteFiles = z.strictObject({ files: z.array(KnowledgeNoteFile).min(1).max(MAX_IMPORTED_NOTES) });
export const ExportedKnowledgeNotes = z.object({ files: z.array(KnowledgeNoteFile) });
export const ImportedKnowledgeNote = z.object({
  file: z.string(),
  result: z.enum(['drafted', 'unchanged', 'refused']),
  /** Of the draft. */
  id: z.uuid().optional(),
  /** Why it was refused: its name, its front matter, its text; somebody else's draft stands open; there are too many. */
  why: z.enum(['name', 'front-matter', 'text', 'draft-open', 'too-many']).optional(),
});
export type ImportedKnowledgeNote = z.output<typeof ImportedKnowledgeNote>;

/** A session of before that has to do with one of now. */
export const EarlierSession = z.object({
  session: SessionView,
  /** What both have: the same customer, the same device. */
  shares: z.array(z.enum(['customer', 'device'])),
  /** What its technician wrote at the end. */
  note: z.string().optional(),
  /** Whether the asker may read it whole. */
  mayRead: z.boolean(),
});
export type EarlierSession = z.output<typeof EarlierSession>;
export const LookedBack = z.object({ items: z.array(EarlierSession) });
export const FoundKnowledge = z.object({ items: z.array(KnowledgeNoteView) });
