import type { Mark } from '@porch/wire';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { type CommonOptions, show } from '../../verbs/common.ts';
import { results, wrong } from '../../words.ts';

function placeOf(text: string): { x: number; y: number } {
  const [x = NaN, y = NaN, ...more] = text.split(',').map(Number);
  if (more.length || !(x >= 0) || !(y >= 0)) throw new CliError(wrong.noPoint({ text }), exitCodes.wrongCall);
  return { x, y };
}

export async function draw(
  kind: Mark['kind'],
  places: string[],
  options: CommonOptions & { text?: string; fade?: boolean; display: string },
): Promise<void> {
  const least = kind === 'point' || kind === 'text' ? 1 : 2;
  if (places.length < least) throw new CliError(wrong.fewPoints({ kind, count: least }), exitCodes.wrongCall);
  const display = Number(options.display);
  if (!Number.isInteger(display) || display < 0) throw new CliError(wrong.noDisplay, exitCodes.wrongCall);
  const value = await callKeeper(options.session, {
    call: 'draw',
    kind,
    places: places.map(placeOf),
    ...(options.text === undefined ? {} : { text: options.text }),
    display,
    fades: options.fade ?? false,
  });
  show(value, options, () => printLine(results.drawn));
}

export async function unmark(options: CommonOptions & { which: 'last' | 'all' | 'everybodys' }): Promise<void> {
  const value = await callKeeper(options.session, { call: 'unmark', which: options.which });
  show(value, options, () => printLine(results.unmarked));
}
