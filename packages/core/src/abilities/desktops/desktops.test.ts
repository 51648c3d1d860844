import { speechOf } from '@porch/words';
import { ledger } from '@porch/words/ledger';
import { expect, it } from 'vitest';
import type { SessionView } from '../../ability/session-view.ts';
import { desktopsRules } from './rules.ts';
import { desktops, type DesktopsSlice } from './shape.ts';

const [ONE, TWO] = ['00000000-0000-4000-8000-000000000001', '00000000-0000-4000-8000-000000000002'];
const view = { isOver: false, nowMs: 1 } as SessionView;
const over = { ...view, isOver: true };
const me = { id: 'doorstep' } as never;
const { decide } = desktopsRules.rules;
type Type = keyof typeof desktops.events;
const after = (s: DesktopsSlice, type: Type, fields: object): DesktopsSlice =>
  desktops.evolve[type]?.(s, { type, by: 'doorstep', ...fields } as never, view) ?? s;
const rung = (s: DesktopsSlice, ringId: string, participantId = 'pim') =>
  after(s, 'desktops/rung', { ringId, participantId, personal: { account: 'samir' } });
const standings = (s: DesktopsSlice | undefined) => Object.values(s?.rings ?? {}).map(({ standing }) => standing);

it('rings once, and ends once: by an answer, or with its permission, its technician, the computer or the session', () => {
  const both = rung(rung(desktops.initial, ONE), TWO, 'rune');
  const came = after(both, 'desktops/came', { ringId: TWO });
  expect(standings(came)).toEqual(['rings', 'came']);
  expect(standings(desktops.fell?.(came, 'call-desktops', 'pim'))).toEqual(['not-come', 'came']);
  expect(standings(desktops.fell?.(came, 'view-screen', 'pim'))).toEqual(['rings', 'came']);
  expect(standings(desktops.left?.(both, 'rune', false))).toEqual(['rings', 'not-come']);
  expect(standings(desktops.left?.(both, 'doorstep', true))).toEqual(['not-come', 'not-come']);
  expect(standings(desktops.ended?.(both))).toEqual(['not-come', 'not-come']);
  // Who said yes has: nothing that comes later changes it.
  expect(standings(after(came, 'desktops/notCome', { ringId: TWO, why: 'no' }))).toEqual(['rings', 'came']);
});

it('is told once, also by a computer that says so a moment after it ended', () => {
  const one = rung(desktops.initial, ONE);
  const rings = { type: 'desktops/tellRung', ringId: ONE, participantId: 'pim', account: 'samir' } as const;
  expect(decide['desktops/tellRung'](desktops.initial, rings, me, view, {})).toMatchObject([
    { personal: { account: 'samir' } },
  ]);
  expect(decide['desktops/tellRung'](one, rings, me, view, {})).toEqual([]);
  const back = { type: 'desktops/tellNotCome', ringId: ONE, why: 'taken-back' } as const;
  const fallen = desktops.fell?.(one, 'call-desktops', 'pim') ?? one;
  expect(decide['desktops/tellNotCome'](fallen, back, me, view, {})).toMatchObject([{ type: 'desktops/notCome' }]);
  const said = after(fallen, 'desktops/notCome', back);
  expect(decide['desktops/tellNotCome'](said, back, me, view, {})).toEqual([]);
  expect(decide['desktops/tellCame'](said, { type: 'desktops/tellCame', ringId: ONE }, me, view, {})).toEqual([]);
  expect(
    decide['desktops/tellCame'](desktops.initial, { type: 'desktops/tellCame', ringId: ONE }, me, view, {}),
  ).toEqual([]);
  const looks = { type: 'desktops/tellLooked', participantId: 'pim' } as const;
  const looked = after(one, 'desktops/looked', looks);
  expect(decide['desktops/tellLooked'](looked, looks, me, view, {})).toEqual([]);
  expect(decide['desktops/tellLooked'](one, looks, me, over, {})).toEqual({
    noted: 'who is signed in had been looked at',
  });
});

it('is told to both sides by whose desktop it was, also once that is erased', () => {
  const words = ledger.en.desktops;
  const telling = { words, speech: speechOf('en'), nameOf: () => 'Pim', technician: () => 'Pim' };
  const event = { type: 'desktops/notCome', by: 'doorstep', ringId: ONE, why: 'no' } as const;
  const tell = (s: DesktopsSlice) =>
    (['technician', 'customer'] as const).map((side) =>
      desktops.tell['desktops/notCome'][side](event, telling as never, s),
    );
  expect(tell(rung(desktops.initial, ONE))).toEqual([
    'samir said no at their desktop',
    'samir said no at their desktop',
  ]);
  const erased = after(desktops.initial, 'desktops/rung', { ringId: ONE, participantId: 'pim' });
  expect(tell(erased)[0]).toBe('… said no at their desktop');
});
