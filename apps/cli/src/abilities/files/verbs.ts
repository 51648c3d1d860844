import type { FileTransfer } from '@porch/core';
import { resolve } from 'node:path';
import { exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine, printTable } from '../../print.ts';
import { type CommonOptions, show } from '../../verbs/common.ts';
import { desk, named, results, speech } from '../../words.ts';

interface Transfer {
  name?: string;
  stage: string;
  path?: string;
}

/** Further lines of `porch status`. */
export function tellFiles(transfers: readonly FileTransfer[]): void {
  printTable(
    ['FILE', 'SIZE', 'STATE'],
    transfers.map((f) => [f.name ?? '', speech.bytes(f.sizeBytes), desk.files.stages[f.stage]]),
  );
}

/** One list, however many there were. */
function tellTransfers(all: readonly Transfer[], options: CommonOptions): void {
  show({ items: all }, options, () => {
    if (!all.length) printLine(results.nothingOffered);
    for (const { name = results.theFile, stage, path } of all)
      printLine(
        stage === 'arrived' && path
          ? results.fileIn({ name, path })
          : results.file({ name, stage: named(desk.files.stages, stage) }),
      );
  });
  if (all.some(({ stage }) => stage !== 'arrived')) process.exitCode = exitCodes.refused;
}

function progressLine(value: unknown): void {
  const { movedBytes, sizeBytes } = value as { movedBytes: number; sizeBytes: number };
  if (process.stderr.isTTY)
    process.stderr.write(
      `\r${results.moving({ percent: speech.percent(movedBytes / Math.max(1, sizeBytes)), size: speech.bytes(sizeBytes) })} `,
    );
}

export async function give(files: string[], options: CommonOptions): Promise<void> {
  const given: Transfer[] = [];
  for (const file of files)
    given.push(
      (await callKeeper(options.session, { call: 'giveFile', path: resolve(file) }, progressLine)) as Transfer,
    );
  tellTransfers(given, options);
}

export async function fetchFile(path: string, options: CommonOptions & { output: string }): Promise<void> {
  const call = { call: 'fetchFile' as const, path, folder: resolve(options.output) };
  tellTransfers([(await callKeeper(options.session, call, progressLine)) as Transfer], options);
}

export async function take(options: CommonOptions & { output: string }): Promise<void> {
  const taken = (await callKeeper(
    options.session,
    { call: 'takeFiles', folder: resolve(options.output) },
    progressLine,
  )) as Transfer[];
  tellTransfers(taken, options);
}
