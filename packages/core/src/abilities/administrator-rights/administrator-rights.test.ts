import { describe, expect, it } from 'vitest';
import type { SessionView } from '../../ability/session-view.ts';
import { administratorRightsRules } from './rules.ts';
import { administratorRights, minutesOf, type AdministratorRightsSlice } from './shape.ts';

const [ONE, TWO] = ['00000000-0000-4000-8000-000000000001', '00000000-0000-4000-8000-000000000002'];
const view = { isOver: false } as SessionView;
const me = { id: 'doorstep' } as never;
const { decide } = administratorRightsRules.rules;
const raisedBy = (raiseId: string, participantId: string, before: AdministratorRightsSlice = {}) =>
  administratorRights.evolve['administrator-rights/raised']?.(
    before,
    {
      type: 'administrator-rights/raised',
      by: 'doorstep',
      raiseId,
      participantId,
      way: 'password',
      minutes: 1,
      untilMs: 1,
    } as never,
    view,
  ) ?? {};

describe('administrator rights in a session', () => {
  it('have fallen once the permission, whoever has them, or the computer is gone; and why is still said, once', () => {
    const both = raisedBy(TWO, 'rune', raisedBy(ONE, 'pim'));
    const standings = (slice?: AdministratorRightsSlice) => [ONE, TWO].map((id) => slice?.[id]?.standing);
    expect(standings(administratorRights.fell?.(both, 'raise-rights', 'pim'))).toEqual(['fallen', 'raised']);
    expect(standings(administratorRights.fell?.(both, 'view-screen', 'pim'))).toEqual(['raised', 'raised']);
    expect(standings(administratorRights.left?.(both, 'rune', false))).toEqual(['raised', 'fallen']);
    expect(standings(administratorRights.left?.(both, 'doorstep', true))).toEqual(['fallen', 'fallen']);
    expect(standings(administratorRights.ended?.(both))).toEqual(['fallen', 'fallen']);

    const fallen = administratorRights.fell?.(both, 'raise-rights', 'pim') ?? {};
    const tell = { type: 'administrator-rights/tellFell', raiseId: ONE, why: 'not-allowed' } as const;
    const [event] = decide['administrator-rights/tellFell'](fallen, tell, me, view, {} as never) as never[];
    expect(event).toMatchObject({ type: 'administrator-rights/fell', why: 'not-allowed' });
    const said = administratorRights.evolve['administrator-rights/fell']?.(fallen, event as never, view) ?? {};
    expect(said[ONE]?.fell).toBe('not-allowed');
    expect(decide['administrator-rights/tellFell'](said, tell, me, view, {} as never)).toEqual([]);
    expect(decide['administrator-rights/tellFell']({}, tell, me, view, {} as never)).toEqual([]);
  });

  it('are used only while they are raised, and noted when nothing changes any longer', () => {
    const used = { type: 'administrator-rights/tellUsed', raiseId: ONE, what: 'a driver' } as const;
    const tell = (slice: AdministratorRightsSlice, over = false) =>
      decide['administrator-rights/tellUsed'](slice, used, me, { ...view, isOver: over }, {} as never);
    expect(tell(raisedBy(ONE, 'pim'))).toMatchObject([{ personal: { what: 'a driver' } }]);
    expect(tell({})).toEqual([]);
    expect(tell({}, true)).toEqual({ noted: 'administrator rights had been raised' });
  });

  it('last whole minutes, one at least', () => {
    expect([0, 29_000, 60_000, 89_000, 91_000].map(minutesOf)).toEqual([1, 1, 1, 1, 2]);
  });
});
