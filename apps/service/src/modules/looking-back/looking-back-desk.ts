import type { EarlierSession, KnowledgeNoteView } from '@porch/wire';
import { In, type DataSource } from 'typeorm';
import type { NoteFinder } from '../knowledge/note-finder.ts';
import type { Technician } from '../people/technician.ts';
import type { QueueDesk } from '../queue/queue-desk.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import type { SessionLists } from '../sessions/session-lists.ts';
import type { TicketLists } from '../tickets/ticket-lists.ts';
import { unlessRefused } from '../../refusal-of.ts';
import { SessionNoteEntity } from './looking-back-tables.ts';

/** The last of them; who wants more searches past sessions. */
const MAX_EARLIER = 20;
/** More of a ticket's words find nothing else. */
const MAX_ASKED_CHARACTERS = 4_000;

export interface LookingBackParts {
  readonly records: DataSource;
  readonly desk: SessionDesk;
  readonly lists: SessionLists;
  readonly queue: QueueDesk;
  readonly ticketLists: TicketLists;
  readonly noteFinder: NoteFinder;
}

/** What is known before anything is touched: sessions of before, and what the desk wrote down. The customer sees neither. */
export class LookingBackDesk {
  readonly #parts: LookingBackParts;

  constructor(parts: LookingBackParts) {
    this.#parts = parts;
  }

  /**
   * Sessions with the same customer or at the same device, the last first, for whoever may read this one: in short, also
   * where they may not read the whole; what nobody came into is none of them. Throws SESSION_NOT_FOUND.
   */
  async earlier(me: Technician, id: string): Promise<EarlierSession[]> {
    const { records, desk, lists } = this.#parts;
    await desk.read(me, id);
    const rows = await records.query<{ id: string; kinds: EarlierSession['shares'] }[]>(
      `SELECT t."session_id" AS id, array_agg(DISTINCT t."kind" ORDER BY t."kind") AS kinds
         FROM "session_tie" mine JOIN "session_tie" t ON t."kind" = mine."kind" AND t."key" = mine."key"
         JOIN "session" s ON s."id" = t."session_id" AND s."phase" NOT IN ('prepared', 'joining')
        WHERE mine."session_id" = $1 AND t."session_id" <> $1 AND t."prepared_at" <= mine."prepared_at"
        GROUP BY t."session_id", t."prepared_at" ORDER BY t."prepared_at" DESC, t."session_id" LIMIT $2`,
      [id, MAX_EARLIER],
    );
    if (!rows.length) return [];
    const ids = rows.map((row) => row.id);
    const [views, notes, readable] = await Promise.all([
      lists.viewsOf(ids),
      records.getRepository(SessionNoteEntity).findBy({ sessionId: In(ids) }),
      lists.readable(me, ids),
    ]);
    return rows.flatMap((row) => {
      const session = views.find((view) => view.id === row.id);
      const note = notes.find(({ sessionId }) => sessionId === row.id)?.note;
      return session ? [{ session, shares: row.kinds, ...(note ? { note } : {}), mayRead: readable.has(row.id) }] : [];
    });
  }

  /** Notes that fit the words of its ticket, or of whoever asked for help. Throws SESSION_NOT_FOUND. */
  async knowledge(me: Technician, id: string): Promise<KnowledgeNoteView[]> {
    const { desk, ticketLists, noteFinder, queue } = this.#parts;
    const { state } = await desk.read(me, id);
    const { ticketRef: ref } = state;
    // Asked again whenever somebody comes in: what was seen of the ticket will do.
    const ticket = ref ? (ticketLists.seen(ref) ?? (await ticketLists.read(ref).catch(unlessRefused))) : undefined;
    const asked = await queue.askedIn(id);
    const words = [state.purpose, ticket?.title, ticket?.description, asked?.description];
    return noteFinder.besideSession({
      words: words
        .filter((one) => one !== undefined)
        .join(' ')
        .slice(0, MAX_ASKED_CHARACTERS),
      topic: asked?.topic,
      label: ticket?.assetLabel ?? state.deviceLabel,
      language: me.languages[0] ?? 'en',
    });
  }
}
