import { Outcome, Permission } from '@porch/core';
import { z } from 'zod';
import { SessionView } from './rest-schemas.ts';

/** Sessions on one page, unless fewer are asked for. */
export const USUAL_PAGE = 50;
export const MAX_PAGE = 200;
const moment = z.iso.datetime({ offset: true });

/** What is looked for among the sessions that somebody may read: all that is said has to fit. */
export const SessionSearch = z.object({
  /** Words of what was said, written or done in it, or of who was there; the beginnings of words are enough. */
  words: z.string().max(200).optional(),
  /** The start of its id. */
  idStart: z
    .string()
    .regex(/^[0-9a-f]{4}[0-9a-f-]{0,32}$/i, 'must be the start of a session’s id, four characters or more')
    .optional(),
  phase: z.enum(['prepared', 'joining', 'live', 'ended', 'logged']).optional(),
  outcome: Outcome.optional(),
  /** A ticket, whole. */
  ticket: z.string().max(40).optional(),
  /** A technician who led it or was in it, by id. */
  technician: z.string().max(80).optional(),
  device: z.uuid().optional(),
  /** Something that was allowed in it. */
  permission: Permission.optional(),
  /** Whether files arrived in it. */
  files: z.enum(['any']).optional(),
  /** Prepared at or after this, and before that (ISO 8601). */
  from: moment.optional(),
  to: moment.optional(),
  limit: z.coerce.number().int().min(1).max(MAX_PAGE).default(USUAL_PAGE),
  /** Where the page before ended. */
  cursor: z.string().max(200).optional(),
});
export type SessionSearch = z.infer<typeof SessionSearch>;

/** The last prepared first. */
export const SessionPage = z.object({
  items: z.array(SessionView),
  /** What to ask for the next page with; missing on the last. */
  next: z.string().optional(),
});
export type SessionPage = z.infer<typeof SessionPage>;
