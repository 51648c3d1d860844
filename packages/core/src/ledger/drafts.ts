import { speechOf } from '@porch/words';
import type { LedgerWords } from '@porch/words/ledger/shape';
import { abilityStory, techniciansAct } from '../abilities/index.ts';
import { leadOf, type Phase } from '../kernel/state.ts';
import { purposeInWords } from '../session/purpose.ts';
import type { Permission } from '../permission/permission.ts';
import type { LedgerEntry } from './entry.ts';
import { replay, type ToldEntry } from './replay.ts';
import { tellToTechnicians } from './to-technicians.ts';

/** Events that belong into a story of what was done; the rest is machinery. */
const told: ReadonlySet<string> = new Set([
  'permissionGranted',
  'permissionWithdrawn',
  'handedOver',
  'tryItAnswered',
  'sessionEnded',
  'screenLost',
  ...abilityStory,
]);

/** Whose words a draft is in, and whose clock its times are of. */
export interface DraftFor {
  readonly book: LedgerWords;
  readonly timeZone: string;
}
const lineOf = ({ book, timeZone }: DraftFor) => {
  const { clock } = speechOf(book.language, timeZone);
  return (e: ToldEntry) => `${clock(e.atMs)} ${e.sentence}`;
};

/** So much of a draft is told: there is room for what the technician adds. */
export const MAX_DRAFT_CHARACTERS = 6_000;

/** The last of these lines that fit, and how many stand before them. */
function lastThatFit(lines: readonly string[]): { readonly shown: readonly string[]; readonly leftOut: number } {
  let room = MAX_DRAFT_CHARACTERS;
  let from = lines.length;
  while (from > 0 && (room -= (lines[from - 1]?.length ?? 0) + 1) >= 0) from -= 1;
  return { shown: lines.slice(from), leftOut: from };
}

/** The technician's note, drafted from the ledger; they edit it before it goes into the ticket. */
export function draftNote(entries: readonly LedgerEntry[], reader: DraftFor): string {
  const { drafts, people } = reader.book.kernel;
  const state = replay(entries);
  const lines = tellToTechnicians(entries, reader.book).filter((e) => told.has(e.event.type));
  const { shown, leftOut } = lastThatFit(lines.map(lineOf(reader)));
  const [who, asset] = [state.customerName ?? people.customer, state.asset];
  const what = purposeInWords(state.purpose ?? '', reader.book);
  const helped = () => {
    if (asset) return what ? drafts.helpedAtWith({ who, asset, what }) : drafts.helpedAt({ who, asset });
    return what ? drafts.helpedWith({ who, what }) : drafts.helped({ who });
  };
  return [
    helped(),
    ...(leftOut ? [drafts.leftOut({ count: leftOut })] : []),
    ...shown,
    ...(lines.length ? [drafts.zone({ zone: reader.timeZone })] : []),
    drafts.chats({ count: entries.filter((e) => e.event.type === 'chatSent').length }),
  ].join('\n');
}

/** How much of what was done and said a colleague reads before they take over. */
const MOST_BRIEF_LINES = 9;

/** What a colleague needs to know before they take over: in order of time, each thing once. */
export function draftBrief(entries: readonly LedgerEntry[], remark: string, reader: DraftFor): string {
  const { book, timeZone } = reader;
  const { drafts, people } = book.kernel;
  const state = replay(entries);
  const lines = tellToTechnicians(entries, book).filter(
    (e) => e.event.type === 'chatSent' || (told.has(e.event.type) && e.event.type !== 'permissionGranted'),
  );
  const lead = state.standings[leadOf(state)?.id ?? ''] ?? {};
  const allowed = Object.entries(lead).filter(([, standing]) => standing.name === 'allowed');
  const acts = allowed.map(([permission]) => techniciansAct(permission as Permission, book));
  const shown = lines.slice(-MOST_BRIEF_LINES);
  const [who, ticket] = [state.customerName ?? people.customer, state.ticketRef];
  const what = purposeInWords(state.purpose ?? '', book);
  const about = () => {
    if (ticket) return what ? drafts.aboutTicketWith({ who, ticket, what }) : drafts.aboutTicket({ who, ticket });
    return what ? drafts.about({ who, what }) : who;
  };
  return [
    about(),
    ...(remark.trim() ? [drafts.why({ why: remark.trim() })] : []),
    acts.length ? drafts.allowed({ what: speechOf(book.language).list(acts) }) : drafts.allowedNothing,
    ...shown.map(lineOf(reader)),
    ...(shown.length ? [drafts.zone({ zone: timeZone })] : []),
  ].join('\n');
}

/** Minutes of help, from accepting to the end, rounded up. */
export function minutesIn(phase: Phase, nowMs: number): number {
  if (phase.name === 'live') return Math.ceil((nowMs - phase.sinceMs) / 60_000);
  return phase.name === 'ended' || phase.name === 'logged' ? Math.ceil(phase.liveMs / 60_000) : 0;
}

/** The chat as it goes into the ticket: one line a message. */
export const chatText = (entries: readonly LedgerEntry[], reader: DraftFor): string =>
  tellToTechnicians(entries, reader.book)
    .filter((e) => e.event.type === 'chatSent')
    .map(lineOf(reader))
    .join('\n');

/** What was done, as it goes into the ticket. */
export const actionsText = (entries: readonly LedgerEntry[], reader: DraftFor): string =>
  tellToTechnicians(entries, reader.book)
    .filter((e) => e.event.type !== 'chatSent' && e.event.type !== 'outcomeLogged')
    .map(lineOf(reader))
    .join('\n');
