import { participantOf } from '@porch/testkit/participant';
import { describe, expect, it } from 'vitest';
import { ownScreenRules } from '../abilities/own-screen/rules.ts';
import { ownScreen } from '../abilities/own-screen/shape.ts';
import type { SessionView } from '../ability/session-view.ts';
import { newSession, type SessionState } from './session-state.ts';
import { mayShow, mayWatch } from './streams.ts';

const allowed = { name: 'allowed', grantNumber: 1, endsAtMs: 1_000 } as const;
const state: SessionState = {
  ...newSession,
  hasAccepted: true,
  holderId: 'doorstep',
  participants: {
    pim: participantOf('pim', 1, 'lead'),
    rune: participantOf('rune', 2, 'colleague'),
    page: participantOf('page', 3, 'page'),
    doorstep: participantOf('doorstep', 4, 'doorstep'),
  },
  standings: { pim: { 'show-own-screen': allowed }, rune: { 'view-screen': allowed } },
};

describe('who sees what of whom', () => {
  it('a technician’s own screen goes to whoever holds the consent, while that lets them, and to nobody else', () => {
    const seenBy = (of: SessionState, nowMs = 0) =>
      Object.keys(of.participants).filter((viewer) => mayWatch(of, viewer, 'pim', nowMs));
    expect(seenBy(state)).toEqual(['doorstep']);
    expect(seenBy(state, 1_000)).toEqual([]);
    expect(seenBy({ ...state, holderId: 'page' })).toEqual(['page']);
    expect(seenBy({ ...state, standings: { pim: { 'view-screen': allowed } } })).toEqual([]);
    expect(mayWatch(state, 'doorstep', 'rune', 0)).toBe(false);
  });

  it('what is passed on is the holder’s picture, and what a technician with leave shows', () => {
    const shows = (of: SessionState) => Object.keys(of.participants).filter((id) => mayShow(of, id, 0));
    expect(shows(state)).toEqual(['pim', 'doorstep']);
    expect(shows({ ...state, holderId: undefined, standings: {} })).toEqual([]);
    // One who looks on never shows anything, whatever was granted.
    const coach = { ...state.participants['pim'], part: 'coach' } as (typeof state.participants)[string];
    expect(shows({ ...state, participants: { ...state.participants, pim: coach } })).toEqual(['doorstep']);
  });
});

describe('a technician’s own screen', () => {
  const [one, two] = ['00000000-0000-4000-8000-000000000001', '00000000-0000-4000-8000-000000000002'];
  const me = { id: 'pim', side: 'desk', part: 'lead', isGone: false } as const;
  const view = (holds: boolean, isOver = false) => ({ isOver, holds: () => holds }) as unknown as SessionView;
  const { decide } = ownScreenRules.rules;
  const begin = (showingId: string) => ({ type: 'own-screen/begin', showingId, what: 'tab' }) as const;
  const shown = { shown: { showingId: one, byId: 'pim', what: 'tab' } } as const;

  it('begins with leave alone, once for each showing, and never after the end', () => {
    expect(decide['own-screen/begin']({}, begin(one), me, view(false), {})).toEqual({ refused: 'NOT_GRANTED' });
    expect(decide['own-screen/begin']({}, begin(one), me, view(true, true), {})).toEqual({ refused: 'SESSION_ENDED' });
    expect(decide['own-screen/begin'](shown, begin(one), me, view(true), {})).toEqual([]);
    expect(decide['own-screen/begin'](shown, begin(two), me, view(true), {})).toMatchObject([{ showingId: two }]);
  });

  it('is ended by whoever shows it, and closed by the other side; what is not shown any longer changes nothing', () => {
    const end = { type: 'own-screen/end', showingId: one } as const;
    expect(decide['own-screen/end'](shown, end, { ...me, id: 'rune' }, view(true), {})).toEqual([]);
    expect(decide['own-screen/end'](shown, end, me, view(true), {})).toHaveLength(1);
    const closed = { type: 'own-screen/tellClosed', showingId: two, fact: 3 } as const;
    const doorstep = { id: 'doorstep', side: 'customer', part: 'doorstep', isGone: false } as const;
    expect(decide['own-screen/tellClosed'](shown, closed, doorstep, view(true), {})).toHaveProperty('noted');
    // An end that comes late does not end the one that came after.
    const later = ownScreen.evolve['own-screen/begun']?.(
      shown,
      { type: 'own-screen/begun', by: 'pim', showingId: two, what: 'window' },
      view(true),
    );
    const after =
      later &&
      ownScreen.evolve['own-screen/ended']?.(
        later,
        { type: 'own-screen/ended', by: 'pim', showingId: one },
        view(true),
      );
    expect(after).toBe(later);
  });

  it('is over with the permission, and when whoever shows it leaves', () => {
    expect(ownScreen.fell?.(shown, 'show-own-screen', 'pim')).toEqual({});
    expect(ownScreen.fell?.(shown, 'show-own-screen', 'rune')).toBe(shown);
    expect(ownScreen.fell?.(shown, 'view-screen', 'pim')).toBe(shown);
    expect(ownScreen.left?.(shown, 'pim', false)).toEqual({});
  });
});
