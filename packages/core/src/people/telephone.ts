/** Fewer digits name no line: an extension, a floor. */
const FEWEST_DIGITS = 6;
const MOST_DIGITS = 15;
const form = /^\+?[\d\s().\/-]+$/u;

const digitsOf = (text: string): string => text.replace(/\D/gu, '');

/** Whether this can be a telephone number as people write them: at most 15 digits (ITU-T E.164), with what sets them in groups. */
export function isTelephone(text: string): boolean {
  const { length } = digitsOf(text);
  return form.test(text.trim()) && length >= FEWEST_DIGITS && length <= MOST_DIGITS;
}

/**
 * Whether both name one line. One may be written with its country or area and the other without: then the shorter one, less
 * the 0 that stands for them, ends the longer one.
 */
export function isSameTelephone(a: string, b: string): boolean {
  if (!isTelephone(a) || !isTelephone(b)) return false;
  const [short = '', long = ''] = [a, b]
    .map((each) => digitsOf(each).replace(/^0+/u, ''))
    .sort((x, y) => x.length - y.length);
  return short.length >= FEWEST_DIGITS && long.endsWith(short);
}
