import type { KnowledgeNoteView } from '@porch/wire';
import { languageNames } from '@porch/core';
import { exactly } from '../../times.ts';
import { w } from '../../words/index.ts';
import { oneLine } from '../porch/one-line.ts';

/** Beneath a note's title: what it is of, who wrote it, and who said that it is good. */
export function aboutNote(note: KnowledgeNoteView): string {
  const { knowledge } = w.value;
  const when = exactly(note.writtenAtMs);
  const by = note.reviewerName
    ? knowledge.reviewedBy({ author: note.authorName, reviewer: note.reviewerName, when })
    : knowledge.draftBy({ author: note.authorName, when });
  return oneLine(note.topic ?? knowledge.noTopic, ...note.labels, languageNames[note.language], by);
}
