import type { ConsoleWords } from '@porch/words/console/shape';

const browsers: readonly [RegExp, string][] = [
  [/\bFirefox\//, 'Firefox'],
  [/\bEdg(e|A|iOS)?\//, 'Edge'],
  [/Chrom(e|ium)\//, 'Chromium'],
  [/\bSafari\//, 'Safari'],
];
/** The narrower before the wider: a telephone says that it is Linux, too. */
const systems: readonly [RegExp, string][] = [
  [/\bAndroid\b/, 'Android'],
  [/\b(iPhone|iPad)\b/, 'iOS'],
  [/\bWindows\b/, 'Windows'],
  [/\bMac OS X\b/, 'macOS'],
  [/\bCrOS\b/, 'ChromeOS'],
  [/\bLinux\b/, 'Linux'],
];
const MAX_WORDS = 60;

/** What a program says of itself (HTTP's User-Agent, RFC 9110 §10.1.5), as somebody reads it who looks through their sign-ins. */
export function programInWords(says: string, { programOn, programUnknown }: ConsoleWords['signIn']): string {
  const find = (list: readonly [RegExp, string][]) => list.find(([pattern]) => pattern.test(says))?.[1];
  const [browser, system] = [find(browsers), find(systems)];
  if (browser) return system ? programOn({ browser, system }) : browser;
  return says.trim().slice(0, MAX_WORDS) || programUnknown;
}
