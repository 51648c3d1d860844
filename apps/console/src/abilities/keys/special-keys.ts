import { keyboardSystems } from '@porch/core';
import type { InputAct } from '@porch/wire';

export const specialKeySets = ['browser', ...keyboardSystems] as const;
export type SpecialKeySet = (typeof specialKeySets)[number];

/**
 * Keys that never reach a page, since a browser, a window manager or a system keeps them for itself: of the first set
 * everywhere, of the others at a computer with that system. Each is pressed in this order.
 */
export const specialKeys: Readonly<Record<SpecialKeySet, readonly (readonly string[])[]>> = {
  browser: [
    ['Control', 't'],
    ['Control', 'n'],
    ['Control', 'w'],
    ['Control', 'Shift', 't'],
    ['Control', 'Shift', 'n'],
    ['Control', 'Tab'],
    ['Control', 'PageDown'],
    ['Control', 'PageUp'],
    ['F11'],
    ['Shift', 'Escape'],
  ],
  linux: [
    ['Meta'],
    ['Alt', 'Tab'],
    ['Alt', 'F4'],
    ['Alt', 'F2'],
    ['Control', 'Alt', 'Delete'],
    ['Control', 'Alt', 't'],
    ['Control', 'Alt', 'l'],
    ['PrintScreen'],
    ['Shift', 'PrintScreen'],
    ['ContextMenu'],
  ],
  windows: [
    ['Meta'],
    ['Meta', 'r'],
    ['Meta', 'e'],
    ['Meta', 'd'],
    ['Meta', 'l'],
    ['Control', 'Alt', 'Delete'],
    ['Control', 'Shift', 'Escape'],
    ['Alt', 'Tab'],
    ['Alt', 'F4'],
    ['Meta', 'Shift', 's'],
    ['PrintScreen'],
    ['ContextMenu'],
  ],
  apple: [
    ['Meta', ' '],
    ['Meta', 'Tab'],
    ['Meta', 'q'],
    ['Meta', 'w'],
    ['Meta', 'h'],
    ['Alt', 'Meta', 'Escape'],
    ['Control', 'Meta', 'q'],
    ['Shift', 'Meta', '3'],
    ['Shift', 'Meta', '4'],
    ['Control', 'ArrowUp'],
  ],
};

/** What keyboards of that system have printed on a key. */
export function keyCap(key: string, set: SpecialKeySet, names: Readonly<Record<'system' | 'space', string>>): string {
  if (key === ' ') return names.space;
  if (key === 'Meta') return set === 'windows' ? 'Win' : set === 'apple' ? 'Command' : names.system;
  if (key === 'Alt') return set === 'apple' ? 'Option' : 'Alt';
  return (
    {
      Control: 'Ctrl',
      PageDown: 'Page Down',
      PageUp: 'Page Up',
      PrintScreen: 'Print',
      ContextMenu: 'Menu',
      ArrowUp: '↑',
    }[key] ?? (key.length === 1 ? key.toUpperCase() : key)
  );
}

/** Pressed in this order, let go in the other. */
export function actsFor(keys: readonly string[]): InputAct[] {
  return [
    ...keys.map((key): InputAct => ({ act: 'key', key, isDown: true })),
    ...[...keys].reverse().map((key): InputAct => ({ act: 'key', key, isDown: false })),
  ];
}
