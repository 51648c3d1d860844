import { resolve } from 'node:path';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { type CommonOptions, show } from '../../verbs/common.ts';
import { results } from '../../words.ts';

const PICTURE_WAIT_MS = 15_000;

export async function picture(options: CommonOptions & { output: string }): Promise<void> {
  const value = (await callKeeper(options.session, {
    call: 'savePicture',
    file: resolve(options.output),
    waitMs: PICTURE_WAIT_MS,
  })) as { file: string; width: number; height: number };
  show(value, options, () =>
    printLine(results.savedPicture({ width: String(value.width), height: String(value.height), file: value.file })),
  );
}
