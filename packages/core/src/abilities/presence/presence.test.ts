import { expect, it } from 'vitest';
import type { SessionView } from '../../ability/session-view.ts';
import { presenceRules } from './rules.ts';
import { presence } from './shape.ts';

const view = { isOver: false } as SessionView;
const me = { id: 'doorstep' } as never;

it('a desktop is behind another one until it is said that it is not, or its program goes; said twice it is one entry', () => {
  const tell = (isBehind: boolean) => ({ type: 'presence/tellSwitched' as const, isBehind, fact: 1 });
  const decide = presenceRules.rules.decide['presence/tellSwitched'];
  const [event] = decide(presence.initial, tell(true), me, view, {} as never) as never[];
  const behind = presence.evolve['presence/switched']?.(presence.initial, event as never, view) ?? presence.initial;
  expect(behind.isBehind).toBe(true);
  expect(decide(behind, tell(true), me, view, {} as never)).toEqual([]);
  expect(decide(behind, tell(false), me, { ...view, isOver: true }, {} as never)).toEqual({
    noted: 'another desktop was in front',
  });
  expect(presence.left?.(behind, 'pim', false)?.isBehind).toBe(true);
  expect(presence.left?.(behind, 'doorstep', true)?.isBehind).toBe(false);
});
