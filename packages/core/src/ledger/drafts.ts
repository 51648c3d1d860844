import { abilityStory } from '../abilities/index.ts';
import { leadOf, type Phase } from '../kernel/state.ts';
import { rulesOf, type Permission } from '../permission/permission.ts';
import type { LedgerEntry } from './entry.ts';
import { replay } from './replay.ts';
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

/** An hour and minute as the desk's clock showed it. */
const clockIn = (timeZone: string) => {
  const format = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', hourCycle: 'h23', timeZone });
  return (atMs: number) => format.format(atMs);
};
const zoneLine = (timeZone: string) => `(Times are those of ${timeZone}.)`;

/** The technician's note, drafted from the ledger; they edit it before it goes into the ticket. */
export function draftNote(entries: readonly LedgerEntry[], timeZone = 'UTC'): string {
  const state = replay(entries);
  const clock = clockIn(timeZone);
  const lines = tellToTechnicians(entries)
    .filter((e) => told.has(e.event.type))
    .map((e) => `${clock(e.atMs)} ${e.sentence}`);
  const chats = entries.filter((e) => e.event.type === 'chatSent').length;
  return [
    `Helped ${state.customerName ?? 'the customer'}${state.asset ? ` at ${state.asset}` : ''}${state.purpose ? `: ${state.purpose}` : ''}`,
    ...lines,
    ...(lines.length ? [zoneLine(timeZone)] : []),
    chats ? `${chats} chat messages are attached.` : 'Nothing was said in the chat.',
  ].join('\n');
}

/** How much of what was done and said a colleague reads before they take over. */
const MOST_BRIEF_LINES = 9;

/** What a colleague needs to know before they take over: in order of time, each thing once. */
export function draftBrief(entries: readonly LedgerEntry[], remark: string, timeZone = 'UTC'): string {
  const state = replay(entries);
  const clock = clockIn(timeZone);
  const lines = tellToTechnicians(entries).filter(
    (e) => e.event.type === 'chatSent' || (told.has(e.event.type) && e.event.type !== 'permissionGranted'),
  );
  const lead = state.standings[leadOf(state)?.id ?? ''] ?? {};
  const allowed = Object.entries(lead).filter(([, standing]) => standing.name === 'allowed');
  const shown = lines.slice(-MOST_BRIEF_LINES);
  return [
    `${state.customerName ?? 'The customer'}${state.ticketRef ? `, ticket ${state.ticketRef}` : ''}${state.purpose ? `: ${state.purpose}` : ''}`,
    ...(remark.trim() ? [`Why: ${remark.trim()}`] : []),
    `Allowed so far: ${allowed.map(([p]) => rulesOf(p as Permission).label.toLowerCase()).join(', ') || 'nothing'}`,
    ...shown.map((e) => `${clock(e.atMs)} ${e.sentence}`),
    ...(shown.length ? [zoneLine(timeZone)] : []),
  ].join('\n');
}

/** Minutes of help, from accepting to the end, rounded up. */
export function minutesIn(phase: Phase, nowMs: number): number {
  if (phase.name === 'live') return Math.ceil((nowMs - phase.sinceMs) / 60_000);
  return phase.name === 'ended' || phase.name === 'logged' ? Math.ceil(phase.liveMs / 60_000) : 0;
}

/** The chat as it goes into the ticket: one line a message. */
export function chatText(entries: readonly LedgerEntry[], timeZone = 'UTC'): string {
  const clock = clockIn(timeZone);
  return tellToTechnicians(entries)
    .filter((e) => e.event.type === 'chatSent')
    .map((e) => `${clock(e.atMs)} ${e.sentence}`)
    .join('\n');
}

/** What was done, as it goes into the ticket. */
export function actionsText(entries: readonly LedgerEntry[], timeZone = 'UTC'): string {
  const clock = clockIn(timeZone);
  return tellToTechnicians(entries)
    .filter((e) => e.event.type !== 'chatSent' && e.event.type !== 'outcomeLogged')
    .map((e) => `${clock(e.atMs)} ${e.sentence}`)
    .join('\n');
}
