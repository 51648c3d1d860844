import { resolve } from 'node:path';
import { CliError, exitCodes } from '../../exit-codes.ts';
import { callKeeper } from '../../keeper/call-keeper.ts';
import { printLine } from '../../print.ts';
import { type CommonOptions, show } from '../../verbs/common.ts';
import { results, wrong } from '../../words.ts';
import type { OwnScreenNow } from './kept.ts';
import { readPictureFile } from './picture-file.ts';

export async function showPicture(
  picture: string | undefined,
  options: CommonOptions & { stop?: boolean },
): Promise<void> {
  if (options.stop) {
    show(await callKeeper(options.session, { call: 'stopShowing' }), options, () => printLine(results.shownStopped));
    return;
  }
  if (picture === undefined) throw new CliError(wrong.whichPicture, exitCodes.wrongCall);
  const file = resolve(picture);
  // Said here and now, before anything is begun.
  await readPictureFile(file).catch((error: Error) => {
    throw new CliError(wrong.noPicture({ file: picture, why: error.message }), exitCodes.wrongCall);
  });
  const value = (await callKeeper(options.session, { call: 'showPicture', file })) as OwnScreenNow;
  show(value, options, () => printLine(results.shown({ name: value.shows ?? picture })));
}

export function tellOwnScreen({ shows, isSeen, over }: OwnScreenNow): void {
  if (shows !== null) printLine(results.shownIs[isSeen ? 'seen' : 'unseen']({ name: shows }));
  else if (over) printLine(results.shownOver[over === 'closed' ? 'closed' : 'notAllowed']);
}
