import type { Evolvers } from '../evolvers.ts';
import { endAllPermissions } from '../standings.ts';
import type { Phase } from '../state.ts';
import type { endingEvents } from './events.ts';

const liveMsOf = (phase: Phase, atMs: number) => (phase.name === 'live' ? Math.max(0, atMs - phase.sinceMs) : 0);

export const endingEvolvers = {
  tryItAsked: (s) => ({ ...s, isTryAsked: true, tryAnswer: undefined }),
  tryItAnswered: (s, e) => ({ ...s, isTryAsked: false, tryAnswer: e.answer }),
  sessionEnded: (s, e, atMs) => ({
    ...endAllPermissions(s, Object.keys(s.standings), atMs),
    asks: {},
    handover: undefined,
    isTryAsked: false,
    phase: { name: 'ended', sinceMs: atMs, liveMs: liveMsOf(s.phase, atMs), reason: e.reason },
  }),
  outcomeLogged: (s, e) =>
    s.phase.name === 'ended' ? { ...s, phase: { ...s.phase, name: 'logged', outcome: e.outcome } } : s,
  factNoted: (s) => s,
  personErased: (s) => s,
  notUnderstood: (s, e) => ({ ...s, notUnderstood: [...s.notUnderstood, e.what] }),
} satisfies Evolvers<typeof endingEvents>;
