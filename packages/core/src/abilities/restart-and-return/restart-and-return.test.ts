import { describe, expect, it } from 'vitest';
import type { SessionView } from '../../ability/session-view.ts';
import { restartAndReturnRules } from './rules.ts';
import { isAwaited, restartAndReturn, stopsRestart, type RestartSlice } from './shape.ts';

const RESTART = '00000000-0000-4000-8000-000000000001';
const view = { isOver: false, nowMs: 50_000, holderId: 'doorstep' } as SessionView;
const me = { id: 'doorstep' } as never;
const policy = { restartLateMs: 60_000 };
const { decide, timePassed, nextMs } = restartAndReturnRules.rules;
type Type = keyof typeof restartAndReturn.events;
const after = (s: RestartSlice, type: Type, fields: object = {}, nowMs = view.nowMs): RestartSlice =>
  restartAndReturn.evolve[type]?.(s, { type, by: 'doorstep', ...fields } as never, { ...view, nowMs }) ?? s;
const agreed = after(restartAndReturn.initial, 'restart-and-return/agreed', {
  participantId: 'pim',
  permissions: ['view-screen', 'control-input'],
});
const begun = after(agreed, 'restart-and-return/begun', { restartId: RESTART, how: 'restart', lateAtMs: 110_000 });

describe('a restart in a session', () => {
  it('goes down, starts, waits for a sign-in, and is back; each step moves the time at which it is late', () => {
    const [event] = decide['restart-and-return/tellBegun'](
      agreed,
      { type: 'restart-and-return/tellBegun', restartId: RESTART, participantId: 'pim', how: 'restart' },
      me,
      view,
      policy,
    ) as never[];
    expect(event).toMatchObject({ type: 'restart-and-return/begun', lateAtMs: 110_000 });
    expect(begun.away).toMatchObject({ step: 'going-down', sinceMs: 50_000, isLate: false });
    expect([nextMs?.(begun), timePassed?.(begun, 109_999)]).toEqual([110_000, []]);
    expect(timePassed?.(begun, 110_000)).toEqual([{ type: 'restart-and-return/late', by: 'service', minutes: 1 }]);
    const late = after(begun, 'restart-and-return/late', { minutes: 1 });
    expect([late.away?.isLate, nextMs?.(late), timePassed?.(late, 999_999)]).toEqual([true, undefined, []]);
    const step = after(late, 'restart-and-return/step', { step: 'at-sign-in', lateAtMs: 200_000 });
    expect(step.away).toMatchObject({ restartId: RESTART, step: 'at-sign-in', sinceMs: 50_000, isLate: false });
    const back = after(step, 'restart-and-return/returned', { permissions: ['view-screen'] });
    expect(back).toMatchObject({ away: undefined, toAsk: ['view-screen'], returns: 1 });
    expect(isAwaited(back), 'the next cut of power is covered, too').toBe(true);
  });

  it('that did not happen leaves all as it was, and only its own does', () => {
    expect(after(begun, 'restart-and-return/notBegun', { restartId: 'another' }).away).toEqual(begun.away);
    expect(after(begun, 'restart-and-return/notBegun', { restartId: RESTART })).toEqual(agreed);
  });

  it('without an order is gone once, and starts all the same', () => {
    const gone = after(agreed, 'restart-and-return/gone', { lateAtMs: 90_000 });
    expect(gone.away).toMatchObject({ step: 'gone', restartId: undefined, lateAtMs: 90_000 });
    expect(after(begun, 'restart-and-return/gone', { lateAtMs: 1 })).toEqual(begun);
    expect(after(agreed, 'restart-and-return/step', { step: 'starting', lateAtMs: 7 }).away?.step).toBe('starting');
  });

  it('asks for nothing again that was taken back after the return, and is over with the session, its holder and its technician', () => {
    const back = after(begun, 'restart-and-return/returned', { permissions: ['view-screen', 'control-input'] });
    expect(restartAndReturn.fell?.(back, 'control-input', 'pim').toAsk).toEqual(['view-screen']);
    expect(restartAndReturn.fell?.(back, 'control-input', 'rune')).toBe(back);
    expect(restartAndReturn.ended?.(back)).toMatchObject({ agreed: undefined, toAsk: [] });
    expect(restartAndReturn.left?.(begun, 'doorstep', true)).toMatchObject({ agreed: undefined, away: undefined });
    expect(restartAndReturn.left?.(back, 'pim', false)).toMatchObject({ agreed: undefined, toAsk: [] });
  });

  it('is told by the holder alone, and noted when nothing changes any longer', () => {
    const told = { type: 'restart-and-return/tellAgreed' as const, participantId: 'pim', permissions: [] };
    for (const at of [
      { ...view, holderId: 'page' },
      { ...view, isOver: true },
    ])
      expect(decide['restart-and-return/tellAgreed'](agreed, told, me, at, policy)).toEqual({
        noted: 'the computer had been restarted',
      });
  });

  it('is stopped by others who are signed in, but for a sign-out, and by packages whatever it is', () => {
    expect([stopsRestart('others', 'restart'), stopsRestart('others', 'sign-out')]).toEqual([true, false]);
    expect([stopsRestart('packages', 'bare'), stopsRestart('packages', 'sign-out')]).toEqual([true, true]);
    expect(stopsRestart('unsaved', 'restart')).toBe(false);
  });
});
