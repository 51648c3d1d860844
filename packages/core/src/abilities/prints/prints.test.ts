import { speechOf } from '@porch/words';
import { ledger } from '@porch/words/ledger';
import { describe, expect, it } from 'vitest';
import type { SessionView } from '../../ability/session-view.ts';
import { printsRules } from './rules.ts';
import { prints, type PrintsSlice } from './shape.ts';

const [ONE, TWO] = ['00000000-0000-4000-8000-000000000001', '00000000-0000-4000-8000-000000000002'];
const view = { isOver: false, nowMs: 1 } as SessionView;
const me = { id: 'doorstep' } as never;
const { decide } = printsRules.rules;
type Type = keyof typeof prints.events;
const after = (s: PrintsSlice, type: Type, fields: object): PrintsSlice =>
  prints.evolve[type]?.(s, { type, by: 'doorstep', ...fields } as never, view) ?? s;
const printed = (s: PrintsSlice, printId: string, participantId = 'pim') =>
  after(s, 'prints/printed', { printId, participantId, sizeBytes: 9, sha256: 'a', personal: { title: 'Pass' } });
const added = after(prints.initial, 'prints/printerAdded', { participantId: 'pim' });

describe('what is printed for somebody', () => {
  it('waits, then has arrived; the newest stands first', () => {
    const two = printed(printed(added, ONE), TWO);
    expect([two.printersFor, Object.keys(two.documents)]).toEqual([['pim'], [TWO, ONE]]);
    const arrived = after(two, 'prints/arrived', { printId: ONE });
    expect(Object.values(arrived.documents).map(({ stage }) => stage)).toEqual(['waits', 'arrived']);
    expect(prints.handed?.(arrived).map(({ name, stage }) => [name, stage])).toEqual([
      ['Pass', 'moving'],
      ['Pass', 'arrived'],
    ]);
  });

  it('is lost when it is not allowed any longer, they leave or all is over: but not what has arrived, or is another’s', () => {
    const before = after(printed(printed(added, ONE), TWO, 'rune'), 'prints/arrived', { printId: ONE });
    const stages = (s: PrintsSlice | undefined) => Object.values(s?.documents ?? {}).map(({ stage }) => stage);
    expect(stages(prints.fell?.(before, 'take-prints', 'pim'))).toEqual(['waits', 'arrived']);
    expect(prints.fell?.(before, 'take-prints', 'pim').printersFor).toEqual([]);
    expect(prints.fell?.(before, 'view-screen', 'pim')).toBe(before);
    expect(stages(prints.fell?.(before, 'take-prints', 'rune'))).toEqual(['lost', 'arrived']);
    expect(stages(prints.left?.(before, 'rune', false))).toEqual(['lost', 'arrived']);
    expect(stages(prints.left?.(before, 'doorstep', true))).toEqual(['lost', 'arrived']);
    expect(stages(prints.ended?.(before))).toEqual(['lost', 'arrived']);
  });

  it('is told once, whatever is said again or comes too late', () => {
    const one = printed(added, ONE);
    const about = { printId: ONE, participantId: 'pim', sizeBytes: 9, sha256: 'a', title: 'Pass' };
    expect(decide['prints/tellPrinted'](one, { type: 'prints/tellPrinted', ...about }, me, view, {})).toEqual([]);
    const arrives = { type: 'prints/tellArrived', printId: ONE } as const;
    expect(decide['prints/tellArrived'](one, arrives, me, view, {})).toMatchObject([{ type: 'prints/arrived' }]);
    const arrived = after(one, 'prints/arrived', arrives);
    expect(decide['prints/tellArrived'](arrived, arrives, me, view, {})).toEqual([]);
    expect(decide['prints/tellLost'](arrived, { type: 'prints/tellLost', printId: ONE }, me, view, {})).toEqual([]);
    const over = { ...view, isOver: true };
    expect(decide['prints/tellArrived'](one, arrives, me, over, {})).toEqual({ noted: 'something had been printed' });
  });

  it('is told to both sides by its title and to whom it went, also once that is erased', () => {
    const words = ledger.en.prints;
    const telling = { words, speech: speechOf('en'), nameOf: () => 'Pim', technician: () => 'Pim' };
    const tell = (s: PrintsSlice, side: 'technician' | 'customer') =>
      prints.tell['prints/arrived'][side](
        { type: 'prints/arrived', by: 'doorstep', printId: ONE },
        telling as never,
        s,
      );
    const told = (s: PrintsSlice) => [tell(s, 'technician'), tell(s, 'customer')];
    expect(told(printed(added, ONE))).toEqual(["“Pass” arrived at Pim's", "“Pass” arrived at Pim's"]);
    const erased = after(added, 'prints/printed', { printId: ONE, participantId: 'pim', sizeBytes: 9, sha256: 'a' });
    expect(told(erased)[0]).toBe("“a document” arrived at Pim's");
  });
});
