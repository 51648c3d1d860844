import type { FileProgress } from '@porch/client';
import type { FileTransfer } from '@porch/core';
import type { EstimateView } from '@porch/wire';
import { loadFrontDoorWords } from '@porch/words/front-door/lazily';
import { loadLedgerWords } from '@porch/words/ledger/lazily';
import { spokenBooks } from '@porch/pages';
import { computed } from 'vue';

const books = spokenBooks({ words: loadFrontDoorWords, ledger: loadLedgerWords }, 'porch-language');
export const { speak, firstLanguage, hasChosenLanguage } = books;

/** What the page says, in the language that is spoken now. */
export const w = computed(() => books.spoken.value.words);
/** What ledgers say. */
export const ledger = computed(() => books.spoken.value.ledger);
/** Numbers, lists and moments. */
export const speech = computed(() => books.spoken.value.speech);
export const language = computed(() => books.spoken.value.language);

const inMinutes = (ms: number): string => w.value.common.minutes({ n: Math.round(ms / 60_000) });
/** How long somebody waits, or still waits: about, with a range, and no number when none would be honest. */
export function waitInWords(estimate: EstimateView | undefined, as: 'wait' | 'more' = 'wait'): string {
  const { help } = w.value;
  if (!estimate) return help.nobodyHere;
  if (estimate.toMs < 60_000) return help.waitNone;
  return help[as]({
    about: inMinutes(estimate.aboutMs),
    from: inMinutes(estimate.fromMs),
    to: inMinutes(estimate.toMs),
  });
}

/** How far a file is. */
export function stageInWords(
  { stage, pausedBy }: Pick<FileTransfer, 'stage'> & Partial<Pick<FileTransfer, 'pausedBy'>>,
  progress?: FileProgress,
): string {
  const { files } = w.value;
  if (stage !== 'moving') return files[stage];
  if (pausedBy !== undefined) return files.waits;
  const { movedBytes = 0, sizeBytes = 0, bytesPerSecond, leftMs } = progress ?? {};
  const percent = speech.value.percent(sizeBytes ? movedBytes / sizeBytes : 0);
  if (bytesPerSecond === undefined || leftMs === undefined) return percent;
  return files.rate({ percent, rate: speech.value.bytes(bytesPerSecond), left: speech.value.roughly(leftMs) });
}
