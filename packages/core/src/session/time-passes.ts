import { abilitiesNextMs, abilitiesTimePassed } from '../abilities/rules.ts';
import { closeHandover } from '../kernel/handover/handing-over.ts';
import type { SessionEvent } from './session-events.ts';
import { isOver, isTakingOver } from '../kernel/state.ts';
import type { SessionState } from './session-state.ts';

/** What lapses by itself: asks nobody answered, offers of a handover, grants at their end. */
export function decideTimePassed(s: SessionState, nowMs: number): SessionEvent[] {
  if (isOver(s)) return [];
  const by = 'service';
  const events: SessionEvent[] = [];
  for (const ask of Object.values(s.asks)) {
    if (nowMs < ask.expiresAtMs) continue;
    events.push({ type: 'askClosed', by, askId: ask.id, how: 'lapsed' });
    if (isTakingOver(s, s.participants[ask.participantId]?.technicianId))
      events.push(...closeHandover(s, by, 'lapsed'));
  }
  if (s.handover?.stage === 'offered' && nowMs >= s.handover.answerByMs) events.push(...closeHandover(s, by, 'lapsed'));
  return [...events, ...abilitiesTimePassed(s.slices, nowMs)];
}

/** When something next lapses or a grant ends by itself, so that the service can set one timer. */
export function nextLapseMs(s: SessionState, nowMs: number): number | undefined {
  const times = Object.values(s.asks).map((a) => a.expiresAtMs);
  for (const standings of Object.values(s.standings))
    for (const standing of Object.values(standings))
      if (standing.name === 'allowed' && standing.endsAtMs > nowMs) times.push(standing.endsAtMs);
  if (s.handover?.stage === 'offered') times.push(s.handover.answerByMs);
  times.push(...abilitiesNextMs(s.slices));
  return times.length && !isOver(s) ? Math.min(...times) : undefined;
}
