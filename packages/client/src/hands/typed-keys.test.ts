import { keyMapFor, firstPreferences, type KeyMap, type KeyboardSystem } from '@porch/core';
import { runs } from '@porch/testkit';
import type { InputAct } from '@porch/wire';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { TypedKeys, type KeyTold } from './typed-keys.ts';

/* What a keyboard here does at a computer there, for the keyboards of three systems and for any map. */

const held = { hasControl: false, hasAlt: false, hasMeta: false, hasAltGraph: false };
type Held = Partial<typeof held>;
const told = (key: string, code: string, isDown: boolean, with_: Held = {}): KeyTold => ({
  ...{ key, code, isDown, isComposing: false },
  ...held,
  ...with_,
});
const words = (acts: readonly InputAct[] | undefined) =>
  acts?.map((act) => ('key' in act ? `${act.isDown ? '+' : '-'}${act.key}` : act.act)).join(' ');
/** What arrives of these presses; a name in front says who sits here. */
function arrives(system: KeyboardSystem, presses: readonly KeyTold[], map: KeyMap = {}): string {
  const keys = new TypedKeys(system, () => map);
  return presses
    .map((one) => words(keys.take(one)))
    .filter(Boolean)
    .join(' ');
}

it('lets AltGr make its character here, whatever the system calls it', () => {
  const windows = [
    told('Control', 'ControlLeft', true, { hasControl: true }),
    told('AltGraph', 'AltRight', true, { hasControl: true, hasAlt: true, hasAltGraph: true }),
    told('@', 'KeyQ', true, { hasControl: true, hasAlt: true, hasAltGraph: true }),
    told('@', 'KeyQ', false, { hasControl: true, hasAlt: true, hasAltGraph: true }),
    told('Control', 'ControlLeft', false),
    told('AltGraph', 'AltRight', false),
  ];
  expect(arrives('windows', windows)).toBe('+@ -@');
  const linux = [
    told('AltGraph', 'AltRight', true, { hasAltGraph: true }),
    told('€', 'KeyE', true, { hasAltGraph: true }),
    told('AltGraph', 'AltRight', false),
    told('e', 'KeyE', false),
  ];
  expect(arrives('linux', linux)).toBe('+€ -€');
  const apple = [
    told('Alt', 'AltLeft', true, { hasAlt: true }),
    told('@', 'KeyL', true, { hasAlt: true }),
    told('@', 'KeyL', false, { hasAlt: true }),
    told('Alt', 'AltLeft', false),
  ];
  expect(arrives('apple', apple)).toBe('+@ -@');
});

it('keeps Control and Alt what they are with other keys, and alone', () => {
  const down = told('Control', 'ControlLeft', true, { hasControl: true });
  const c = (isDown: boolean) => told('c', 'KeyC', isDown, { hasControl: true });
  const up = told('Control', 'ControlLeft', false);
  expect(arrives('windows', [down, c(true), c(false), up])).toBe('+Control +c -c -Control');
  expect(arrives('windows', [down, up])).toBe('+Control -Control');
  const option = told('Alt', 'AltLeft', true, { hasAlt: true });
  const left = told('ArrowLeft', 'ArrowLeft', true, { hasAlt: true });
  expect(arrives('apple', [option, told('ø', 'KeyO', true, { hasAlt: true }), left])).toBe('+ø +Alt +ArrowLeft');
  expect(arrives('apple', [option, told('Alt', 'AltLeft', false)])).toBe('+Alt -Alt');
  const keys = new TypedKeys('windows', () => ({}));
  keys.take(down);
  expect(words(keys.beforePointer()), 'a click with Control').toBe('+Control');
});

it('makes of Command what its map says, and never waits for a key that Command hides', () => {
  const map = keyMapFor(firstPreferences, 'apple');
  const presses = [
    told('Meta', 'MetaLeft', true, { hasMeta: true }),
    told('c', 'KeyC', true, { hasMeta: true }),
    told('Meta', 'MetaLeft', false),
  ];
  expect(arrives('apple', presses, map)).toBe('+Control +c -c -Control');
  expect(arrives('apple', presses, {})).toBe('+Meta +c -c -Meta');
  // Two keys of one meaning are one key there.
  const both = [
    told('Control', 'ControlLeft', true, { hasControl: true }),
    told('Meta', 'MetaLeft', true, { hasMeta: true }),
    told('Control', 'ControlLeft', false),
    told('Meta', 'MetaLeft', false),
  ];
  expect(arrives('apple', both, map)).toBe('+Control -Control');
});

it('finds the shortcut of a script without shortcuts, and leaves its letters alone', () => {
  expect(arrives('linux', [told('с', 'KeyC', true, { hasControl: true })])).toBe('+c');
  expect(arrives('linux', [told('с', 'KeyC', true)])).toBe('+с');
  expect(arrives('linux', [told('ø', 'Semicolon', true, { hasControl: true })])).toBe('+ø');
});

it('has its own lock keys for itself, or for another meaning', () => {
  const caps = [told('CapsLock', 'CapsLock', true), told('A', 'KeyA', true), told('CapsLock', 'CapsLock', false)];
  expect(arrives('linux', caps)).toBe('+A');
  expect(arrives('linux', caps, { CapsLock: 'Control' })).toBe('+Control +A -Control');
  expect(arrives('apple', caps.slice(0, 1), { CapsLock: 'Escape' })).toBe('+Escape -Escape');
  expect(arrives('linux', [told('NumLock', 'NumLock', true)])).toBe('');
  expect(arrives('linux', [told('Meta', 'MetaLeft', true)], { Meta: 'nothing' })).toBe('');
});

it('leaves what several presses make to the browser', () => {
  const keys = new TypedKeys('linux', () => ({}));
  expect(keys.take(told('Dead', 'BracketRight', true))).toBeUndefined();
  expect(keys.take({ ...told('k', 'KeyK', true), isComposing: true })).toBeUndefined();
  expect(keys.take(told('Dead', 'BracketRight', false))).toBeUndefined();
});

/** Keys that hands press, on keyboards of every system. */
const known = [
  ['Control', 'ControlLeft'],
  ['Control', 'ControlRight'],
  ['AltGraph', 'AltRight'],
  ['Alt', 'AltLeft'],
  ['Meta', 'MetaLeft'],
  ['Shift', 'ShiftLeft'],
  ['CapsLock', 'CapsLock'],
  ['ContextMenu', 'ContextMenu'],
  ['a', 'KeyA'],
  ['с', 'KeyC'],
  ['@', 'KeyQ'],
  ['ArrowLeft', 'ArrowLeft'],
  ['Dead', 'Quote'],
] as const;
const meanings = fc.option(fc.constantFrom('Control', 'Alt', 'Meta', 'Escape', 'nothing' as const), { nil: undefined });
const anyMap = fc.record({
  Control: meanings,
  Alt: meanings,
  Meta: meanings,
  CapsLock: meanings,
  ContextMenu: meanings,
});

it('lets go there of all that it pressed there, whatever is pressed in whatever order', () => {
  const schedule = fc.array(fc.record({ which: fc.nat(known.length - 1), isClick: fc.boolean() }), { maxLength: 40 });
  fc.assert(
    fc.property(fc.constantFrom('windows', 'apple', 'linux'), anyMap, schedule, (system, map, steps) => {
      const keys = new TypedKeys(system, () => map as KeyMap);
      const here = new Set<number>();
      const there = new Set<string>();
      const follow = (acts: readonly InputAct[] | undefined) => {
        for (const act of acts ?? []) {
          if (act.act !== 'key') throw new Error('only keys come of keys');
          if (act.isDown) there.add(act.key);
          else expect(there.delete(act.key), `${act.key} was down`).toBe(true);
        }
      };
      const turn = (which: number, isDown: boolean) => {
        const [key, code] = known[which] ?? known[0];
        if (isDown) here.add(which);
        else here.delete(which);
        const has = (name: string) => [...here].some((i) => known[i]?.[0] === name);
        const now = {
          hasControl: has('Control'),
          hasAlt: has('Alt'),
          hasMeta: has('Meta'),
          hasAltGraph: has('AltGraph'),
        };
        follow(keys.take(told(key, code, isDown, now)));
      };
      for (const { which, isClick } of steps) {
        if (isClick) follow(keys.beforePointer());
        turn(which, !here.has(which));
      }
      for (const which of [...here]) turn(which, false);
      expect([...there]).toEqual([]);
    }),
    runs(),
  );
});
