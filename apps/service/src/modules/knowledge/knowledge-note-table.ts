import type { Language } from '@porch/core';
import { EntitySchema } from 'typeorm';

/** One version of a knowledge note in one language. */
export interface KnowledgeNoteRow {
  id: string;
  name: string;
  language: Language;
  version: number;
  /** At most one draft and one reviewed version of a name in a language; the others are as they were. */
  state: 'draft' | 'reviewed' | 'replaced' | 'withdrawn';
  topic: string | null;
  labels: string[];
  title: string;
  text: string;
  authorId: string;
  authorName: string;
  writtenAt: Date;
  reviewerId: string | null;
  reviewerName: string | null;
  reviewedAt: Date | null;
  /** By which it is found; of the title with weight A. */
  words: string;
}
export const KnowledgeNoteEntity = new EntitySchema<KnowledgeNoteRow>({
  name: 'knowledge_note',
  columns: {
    id: { type: 'uuid', primary: true },
    name: { type: 'text' },
    language: { type: 'text' },
    version: { type: 'int' },
    state: { type: 'text' },
    topic: { type: 'text', nullable: true },
    labels: { type: 'text', array: true },
    title: { type: 'text' },
    text: { type: 'text' },
    authorId: { type: 'text', name: 'author_id' },
    authorName: { type: 'text', name: 'author_name' },
    writtenAt: { type: 'timestamptz', name: 'written_at' },
    reviewerId: { type: 'text', name: 'reviewer_id', nullable: true },
    reviewerName: { type: 'text', name: 'reviewer_name', nullable: true },
    reviewedAt: { type: 'timestamptz', name: 'reviewed_at', nullable: true },
    words: { type: 'tsvector' },
  },
  indices: [
    { name: 'knowledge_note_version', columns: ['name', 'language', 'version'], unique: true },
    // Of some rows, or inverted: these the migrations alone can say.
    { name: 'knowledge_note_current', synchronize: false },
    { name: 'knowledge_note_words', synchronize: false },
  ],
});
