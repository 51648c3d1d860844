import type { InputAct } from '@porch/wire';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { type CommonOptions, numberOf, show } from '../../verbs/common.ts';
import { wrong } from '../../words.ts';

async function act(acts: InputAct[], options: CommonOptions): Promise<void> {
  const value = await callKeeper(options.session, { call: 'acts', acts });
  show(value, options, () => undefined);
}

export async function click(
  xText: string,
  yText: string,
  options: CommonOptions & { button: 'left' | 'middle' | 'right'; double?: boolean },
): Promise<void> {
  const at = { x: numberOf(xText, 'X'), y: numberOf(yText, 'Y') };
  const once: InputAct[] = [
    { act: 'button', ...at, button: options.button, isDown: true },
    { act: 'button', ...at, button: options.button, isDown: false },
  ];
  await act([{ act: 'move', ...at }, ...once, ...(options.double ? once : [])], options);
}

export async function type(words: string[], options: CommonOptions): Promise<void> {
  const text = words.join(' ');
  const parts = text.match(/[\s\S]{1,1000}/gu) ?? [];
  await act(
    parts.map((part) => ({ act: 'text', text: part })),
    options,
  );
}

export async function press(combinations: string[], options: CommonOptions): Promise<void> {
  const names: Record<string, string> = {
    ctrl: 'Control',
    alt: 'Alt',
    shift: 'Shift',
    meta: 'Meta',
    enter: 'Enter',
    tab: 'Tab',
    esc: 'Escape',
    escape: 'Escape',
    space: ' ',
    backspace: 'Backspace',
    delete: 'Delete',
    up: 'ArrowUp',
    down: 'ArrowDown',
    left: 'ArrowLeft',
    right: 'ArrowRight',
    home: 'Home',
    end: 'End',
    pageup: 'PageUp',
    pagedown: 'PageDown',
  };
  const acts = combinations.flatMap((combination): InputAct[] => {
    const keys = combination.split('+').map((key) => names[key.toLowerCase()] ?? key);
    return [
      ...keys.map((key) => ({ act: 'key' as const, key, isDown: true })),
      ...[...keys].reverse().map((key) => ({ act: 'key' as const, key, isDown: false })),
    ];
  });
  await act(acts, options);
}

export async function turn(direction: string, options: CommonOptions & { steps: string; at?: string }): Promise<void> {
  const steps = Number(options.steps);
  const [x = 0, y = 0] = (options.at ?? '0,0').split(',').map(Number);
  const sign = { up: [0, -1], down: [0, 1], left: [-1, 0], right: [1, 0] }[direction];
  if (!sign) throw new CliError(wrong.noDirection, exitCodes.wrongCall);
  await act([{ act: 'wheel', x, y, stepsX: (sign[0] ?? 0) * steps, stepsY: (sign[1] ?? 0) * steps }], options);
}
