import type { FileProgress, NamesThere } from '@porch/client';
import type { FileTransfer } from '@porch/core';
import { resolve } from 'node:path';
import { exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine, printTable } from '../../print.ts';
import { type CommonOptions, show } from '../../verbs/common.ts';
import type { IfThere } from './calls.ts';
import { desk, named, results, speech } from '../../words.ts';

interface Transfer {
  name?: string;
  stage: string;
  path?: string;
}

type Row = FileTransfer & { readonly bytesPerSecond?: number; readonly leftMs?: number };

/** Further lines of `porch status`. */
export function tellFiles(transfers: readonly Row[]): void {
  const state = ({ stage, pausedBy, bytesPerSecond, leftMs }: Row) => {
    if (stage !== 'moving') return desk.files.stages[stage];
    if (pausedBy !== undefined) return desk.files.waits;
    if (bytesPerSecond === undefined || leftMs === undefined) return desk.files.stages.moving;
    return desk.files.rate({ rate: speech.bytes(bytesPerSecond), left: speech.roughly(leftMs) });
  };
  printTable(
    ['FILE', 'SIZE', 'STATE'],
    transfers.map((f) => [`${f.name ?? ''}${f.isFolder ? '/' : ''}`, speech.bytes(f.sizeBytes), state(f)]),
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
  const { movedBytes, sizeBytes, bytesPerSecond, leftMs } = value as FileProgress;
  if (!process.stderr.isTTY) return;
  const percent = speech.percent(movedBytes / Math.max(1, sizeBytes));
  const rate =
    bytesPerSecond === undefined || leftMs === undefined
      ? ''
      : ` ${desk.files.rate({ rate: speech.bytes(bytesPerSecond), left: speech.roughly(leftMs) })}`;
  process.stderr.write(`\r${results.moving({ percent, size: speech.bytes(sizeBytes) })}${rate} `);
}

interface TakingOptions extends CommonOptions {
  readonly output: string;
  readonly ifThere: IfThere;
}
const taking = ({ output, ifThere }: TakingOptions) => ({ folder: resolve(output), ifThere });

export async function give(files: string[], options: CommonOptions): Promise<void> {
  const call = { call: 'giveFiles' as const, paths: files.map((file) => resolve(file)) };
  tellTransfers((await callKeeper(options.session, call, progressLine)) as Transfer[], options);
}

export async function fetchFile(path: string, options: TakingOptions): Promise<void> {
  const call = { call: 'fetchFile' as const, path, ...taking(options) };
  tellTransfers([(await callKeeper(options.session, call, progressLine)) as Transfer], options);
}

export async function take(options: TakingOptions): Promise<void> {
  const call = { call: 'takeFiles' as const, ...taking(options) };
  tellTransfers((await callKeeper(options.session, call, progressLine)) as Transfer[], options);
}

export async function names(path: string, options: CommonOptions): Promise<void> {
  const there = (await callKeeper(options.session, { call: 'lookAtNames', path })) as NamesThere;
  show({ path: there.path, isCut: there.isCut, items: there.names }, options, () => {
    printTable(
      ['NAME', 'SIZE', 'CHANGED'],
      there.names.map(({ name, kind, sizeBytes, changedAtMs }) => [
        kind === 'folder' ? `${name}/` : name,
        kind === 'file' ? speech.bytes(sizeBytes) : named(desk.files.kinds, kind),
        kind === 'kept' ? '' : speech.dayAndTime(changedAtMs),
      ]),
    );
    if (there.isCut) printLine(desk.files.isCut);
  });
}

export async function setPaused(name: string, isPaused: boolean, options: CommonOptions): Promise<void> {
  const done = await callKeeper(options.session, { call: 'setFilePaused', name, isPaused });
  show(done, options, () => printLine(isPaused ? results.fileWaits({ name }) : results.fileGoesOn({ name })));
}

export async function stopFile(name: string, options: CommonOptions): Promise<void> {
  const done = await callKeeper(options.session, { call: 'stopFile', name });
  show(done, options, () => printLine(results.fileStopped({ name })));
}
