import type { InputAct } from '@porch/wire';

/** Keys that a browser or a window manager keeps for itself, so that no page ever gets them. Without a label: the system key, which each keyboard calls differently. */
export const heldKeys: readonly { readonly label?: string; readonly keys: readonly string[] }[] = [
  { label: 'Ctrl + Alt + Delete', keys: ['Control', 'Alt', 'Delete'] },
  { label: 'Alt + Tab', keys: ['Alt', 'Tab'] },
  { label: 'Alt + F4', keys: ['Alt', 'F4'] },
  { keys: ['Meta'] },
  { label: 'Ctrl + T', keys: ['Control', 't'] },
  { label: 'Ctrl + N', keys: ['Control', 'n'] },
  { label: 'Ctrl + W', keys: ['Control', 'w'] },
  { label: 'Ctrl + Tab', keys: ['Control', 'Tab'] },
  { label: 'Ctrl + Page Down', keys: ['Control', 'PageDown'] },
  { label: 'Print', keys: ['PrintScreen'] },
  { label: 'Shift + Escape', keys: ['Shift', 'Escape'] },
];

/** Pressed in this order, let go in the other. */
export function actsFor(keys: readonly string[]): InputAct[] {
  return [
    ...keys.map((key): InputAct => ({ act: 'key', key, isDown: true })),
    ...[...keys].reverse().map((key): InputAct => ({ act: 'key', key, isDown: false })),
  ];
}
