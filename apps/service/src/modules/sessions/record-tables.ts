import type { Permission } from '@porch/core';
import { EntitySchema } from 'typeorm';

/* What is looked up about sessions, made from their ledgers. Each has the moment of preparing: lists are in its order. */

/** A technician whose session it is, or who was in it. */
export interface SessionPersonRow {
  sessionId: string;
  technicianId: string;
  preparedAt: Date;
}
export const SessionPersonEntity = new EntitySchema<SessionPersonRow>({
  name: 'session_person',
  columns: {
    sessionId: { type: 'uuid', primary: true, name: 'session_id' },
    technicianId: { type: 'text', primary: true, name: 'technician_id' },
    preparedAt: { type: 'timestamptz', name: 'prepared_at' },
  },
  indices: [{ name: 'session_person_of', columns: ['technicianId', 'preparedAt', 'sessionId'] }],
});

/** Something that was allowed in it, at whatever time. */
export interface SessionPermissionRow {
  sessionId: string;
  permission: Permission;
  preparedAt: Date;
}
export const SessionPermissionEntity = new EntitySchema<SessionPermissionRow>({
  name: 'session_permission',
  columns: {
    sessionId: { type: 'uuid', primary: true, name: 'session_id' },
    permission: { type: 'text', primary: true },
    preparedAt: { type: 'timestamptz', name: 'prepared_at' },
  },
  indices: [{ name: 'session_permission_of', columns: ['permission', 'preparedAt', 'sessionId'] }],
});

/** Files that arrived in it: given to the customer, and fetched from them. */
export interface SessionFilesRow {
  sessionId: string;
  given: number;
  givenBytes: string;
  fetched: number;
  fetchedBytes: string;
  preparedAt: Date;
}
export const SessionFilesEntity = new EntitySchema<SessionFilesRow>({
  name: 'session_files',
  columns: {
    sessionId: { type: 'uuid', primary: true, name: 'session_id' },
    given: { type: 'int' },
    givenBytes: { type: 'bigint', name: 'given_bytes' },
    fetched: { type: 'int' },
    fetchedBytes: { type: 'bigint', name: 'fetched_bytes' },
    preparedAt: { type: 'timestamptz', name: 'prepared_at' },
  },
  indices: [{ name: 'session_files_at', columns: ['preparedAt', 'sessionId'] }],
});

/** The words by which it is found, as lexemes of PostgreSQL's text search. */
export interface SessionWordsRow {
  sessionId: string;
  words: string;
}
export const SessionWordsEntity = new EntitySchema<SessionWordsRow>({
  name: 'session_words',
  columns: {
    sessionId: { type: 'uuid', primary: true, name: 'session_id' },
    words: { type: 'tsvector' },
  },
  // An inverted index, which the migrations alone can say.
  indices: [{ name: 'session_words_in', synchronize: false }],
});
