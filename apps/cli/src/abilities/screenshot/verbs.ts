import { resolve } from 'node:path';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { type CommonOptions, show } from '../../verbs/common.ts';
import type { Box } from './calls.ts';
import { results, speech, wrong } from '../../words.ts';

function boxOf(text: string): Box {
  const [x = NaN, y = NaN, width = NaN, height = NaN, ...more] = text.split(',').map(Number);
  if (more.length || ![x, y, width, height].every(Number.isInteger) || width < 1 || height < 1)
    throw new CliError(wrong.noBox({ text }), exitCodes.wrongCall);
  return { x, y, width, height };
}

export async function screenshot(
  options: CommonOptions & {
    output?: string;
    display: string;
    blank?: string[];
    mark?: string[];
    keep?: boolean;
    give?: boolean;
  },
): Promise<void> {
  const { output, keep = false, give = false } = options;
  if (output === undefined && !keep && !give) throw new CliError(wrong.noPlace, exitCodes.wrongCall);
  const display = Number(options.display);
  if (!Number.isInteger(display) || display < 0) throw new CliError(wrong.noDisplay, exitCodes.wrongCall);
  const value = (await callKeeper(options.session, {
    call: 'screenshot',
    display,
    blanked: (options.blank ?? []).map(boxOf),
    marked: (options.mark ?? []).map(boxOf),
    ...(output === undefined ? {} : { file: resolve(output) }),
    keepWithSession: keep,
    give,
  })) as { width: number; height: number; file?: string };
  const places = [
    ...(value.file ? [results.shotSaved({ file: value.file })] : []),
    ...(keep ? [results.shotKept] : []),
    ...(give ? [results.shotGiven] : []),
  ];
  show(value, options, () =>
    printLine(results.shot({ width: String(value.width), height: String(value.height), places: speech.list(places) })),
  );
}
