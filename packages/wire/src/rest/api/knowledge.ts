import { Language } from '@porch/core';
import { z } from 'zod';
import {
  ExportedKnowledgeNotes,
  FoundKnowledge,
  ImportedKnowledgeNote,
  KnowledgeNote,
  KnowledgeNoteFiles,
  KnowledgeNoteName,
  KnowledgeNoteView,
  LookedBack,
  NewKnowledgeNote,
} from '../knowledge-schemas.ts';
import { operation, PageQuery, pageOf } from '../operation.ts';

const One = z.object({ id: z.uuid() });

export const earlierSessions = operation({
  id: 'listEarlierSessions',
  tag: 'Sessions',
  method: 'GET',
  path: '/sessions/{id}/earlier',
  who: 'technician',
  params: One,
  answer: LookedBack,
  old: 'none',
});
export const sessionKnowledge = operation({
  id: 'findNotesForSession',
  tag: 'Knowledge',
  method: 'GET',
  path: '/sessions/{id}/knowledge-notes',
  who: 'technician',
  params: One,
  answer: FoundKnowledge,
  old: 'none',
});
export const knowledgeNotes = operation({
  id: 'listKnowledgeNotes',
  tag: 'Knowledge',
  method: 'GET',
  path: '/knowledge-notes',
  who: 'technician',
  query: PageQuery.extend({
    words: z.string().max(200).optional(),
    name: KnowledgeNoteName.optional(),
    topic: z.string().max(80).optional(),
    language: Language.optional(),
    state: KnowledgeNoteView.shape.state.optional(),
  }),
  answer: pageOf(KnowledgeNoteView),
  old: 'none',
});
export const knowledgeNote = operation({
  id: 'getKnowledgeNote',
  tag: 'Knowledge',
  method: 'GET',
  path: '/knowledge-notes/{id}',
  who: 'technician',
  params: One,
  answer: KnowledgeNote,
  old: 'none',
});
export const writeKnowledgeNote = operation({
  id: 'writeKnowledgeNote',
  tag: 'Knowledge',
  method: 'POST',
  path: '/knowledge-notes',
  who: 'technician',
  body: NewKnowledgeNote,
  answer: KnowledgeNote,
  status: 201,
  old: 'none',
});
export const reviewKnowledgeNote = operation({
  id: 'reviewKnowledgeNote',
  tag: 'Knowledge',
  method: 'POST',
  path: '/knowledge-notes/{id}/review',
  who: 'technician',
  params: One,
  answer: KnowledgeNote,
  old: 'none',
});
export const withdrawKnowledgeNote = operation({
  id: 'withdrawKnowledgeNote',
  tag: 'Knowledge',
  method: 'DELETE',
  path: '/knowledge-notes/{id}',
  who: 'technician',
  params: One,
  old: 'none',
});
export const importKnowledgeNotes = operation({
  id: 'importKnowledgeNotes',
  tag: 'Knowledge',
  method: 'POST',
  path: '/knowledge-notes/import',
  who: 'technician',
  body: KnowledgeNoteFiles,
  answer: z.object({ items: z.array(ImportedKnowledgeNote) }),
  old: 'none',
});
export const exportKnowledgeNotes = operation({
  id: 'exportKnowledgeNotes',
  tag: 'Knowledge',
  method: 'GET',
  path: '/knowledge-notes/export',
  who: 'technician',
  answer: ExportedKnowledgeNotes,
  old: 'none',
});
