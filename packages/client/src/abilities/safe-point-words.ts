import type { LeftAsItIs, PointDifference, SafePoint } from '@porch/core';
import type { Speech } from '@porch/words';
import type { ConsoleWords } from '@porch/words/console/shape';
import type { Compared, WentBack } from './safe-points.ts';

/* Safe points as people read them: the same sentences in the console and on the command line. */

export type SafePointWords = ConsoleWords['safePoints'];
export type SafePointSpeech = Pick<Speech, 'bytes' | 'date'>;

/** What a point holds, and how long it stays. */
export function pointInWords(point: SafePoint, words: SafePointWords, speech: SafePointSpeech): string {
  const { files, sizeBytes, services, packages, keptUntilMs, isUsed } = point;
  return [
    ...(files ? [words.holds.files({ count: files, size: speech.bytes(sizeBytes) })] : []),
    ...(services ? [words.holds.services({ count: services })] : []),
    ...(packages ? [words.holds.packages({ count: packages })] : []),
    keptUntilMs === undefined ? words.holds.goes : words.holds.stays({ until: speech.date(keptUntilMs) }),
    ...(isUsed ? [words.holds.used] : []),
  ].join(' · ');
}

function pointDifferenceInWords(one: PointDifference, words: SafePointWords): string {
  const { what, name, is, from = '', to = '' } = one;
  const told = from || to ? ` (${[from, to].filter(Boolean).join(' → ')})` : '';
  return `${words.differences[is]({ what: words.kinds[what], name })}${told}`;
}
/** What is other than it was, line by line. */
export function comparedInWords({ differences, count }: Compared, words: SafePointWords): string[] {
  if (!count) return [words.same];
  const more = count - differences.length;
  return [
    words.other({ count }),
    ...differences.map((one) => pointDifferenceInWords(one, words)),
    ...(more ? [words.more({ count: more })] : []),
  ];
}
const leftInWords = ({ what, name, why }: LeftAsItIs, words: SafePointWords): string =>
  words.left({ what: words.kinds[what], name, why: words.whyLeft[why] });

/** What came of going back, line by line. */
export function wentBackInWords(
  { count, left, leftCount, why }: WentBack,
  words: SafePointWords,
  reasonInWords: (why: string) => string,
): string[] {
  return [
    leftCount && !count ? words.nothingBack : words.wentBack({ count }),
    ...(why === undefined ? [] : [words.notByRights({ why: reasonInWords(why) })]),
    ...left.map((one) => leftInWords(one, words)),
    ...(leftCount > left.length ? [words.more({ count: leftCount - left.length })] : []),
  ];
}
