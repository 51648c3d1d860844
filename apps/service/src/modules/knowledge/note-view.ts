import type { KnowledgeNote, KnowledgeNoteView } from '@porch/wire';
import type { KnowledgeNoteRow } from './knowledge-note-table.ts';

const EXCERPT_CHARACTERS = 180;

/** The beginning of a Markdown text, without what is marks there. */
export function excerptOf(text: string): string {
  const plain = text
    .replace(/^```.*$/gm, '')
    .replace(/!?\[([^\]]*)\]\([^)]*\)/g, '$1')
    .replace(/^\s*(#{1,6}|[-*+>]|\d+[.)])\s+/gm, '')
    .replace(/[*_`]/g, '')
    .replace(/\s+/g, ' ')
    .trim();
  const characters = [...plain];
  return characters.length > EXCERPT_CHARACTERS
    ? `${characters.slice(0, EXCERPT_CHARACTERS).join('').trimEnd()}…`
    : plain;
}

export function viewOf(row: Omit<KnowledgeNoteRow, 'words'>): KnowledgeNoteView {
  const { id, name, language, version, labels, title, authorId, authorName } = row;
  return {
    ...{ id, name, language, version, labels, title, authorId, authorName },
    state: row.state === 'reviewed' ? 'reviewed' : 'draft',
    ...(row.topic === null ? {} : { topic: row.topic }),
    writtenAtMs: row.writtenAt.getTime(),
    ...(row.reviewerName === null ? {} : { reviewerName: row.reviewerName }),
    excerpt: excerptOf(row.text),
  };
}

export const noteOf = (row: Omit<KnowledgeNoteRow, 'words'>): KnowledgeNote => ({ ...viewOf(row), text: row.text });
