import { printerInWords } from '@porch/client';
import { resolve } from 'node:path';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { show, type CommonOptions } from '../../verbs/common.ts';
import { book, desk, named, results, speech, wrong } from '../../words.ts';
import type { PrintoutRow, PrintsNow } from './kept.ts';

const words = desk.prints;
const MAX_WAIT_SECONDS = 3_600;

function secondsOf(given: string): number {
  const seconds = Number(given);
  if (!Number.isInteger(seconds) || seconds < 1 || seconds > MAX_WAIT_SECONDS)
    throw new CliError(wrong.noWaitSeconds({ given, most: String(MAX_WAIT_SECONDS) }), exitCodes.wrongCall);
  return seconds;
}

function standingOf({ title, sizeBytes, isHere, trouble, number }: PrintoutRow): string {
  const how = isHere ? words.isHere : words.trouble({ why: named(book.kernel.reasons, trouble ?? '…') });
  return `${number}  ${title}  ${speech.bytes(sizeBytes)}  ${how}`;
}

export async function prints(options: CommonOptions & { wait?: string }): Promise<void> {
  const waitMs = options.wait === undefined ? 0 : secondsOf(options.wait) * 1_000;
  const value = (await callKeeper(options.session, { call: 'prints', waitMs })) as PrintsNow;
  show(value, options, () => {
    const { printer, documents } = value;
    printLine(
      printer ? printerInWords({ ...printer, why: named(book.kernel.reasons, printer.why) }, words) : words.mayNot,
    );
    for (const one of documents) printLine(standingOf(one));
    if (printer && !documents.length) printLine(words.nothing);
  });
}

export async function savePrint(
  which: string | undefined,
  options: CommonOptions & { output?: string },
): Promise<void> {
  const value = (await callKeeper(options.session, {
    ...{ call: 'savePrint', which: which ?? '1', folder: process.cwd() },
    ...(options.output === undefined ? {} : { file: resolve(options.output) }),
  })) as PrintoutRow & { readonly file: string };
  show(value, options, () => printLine(results.printSaved({ title: value.title, file: value.file })));
}
