import fc from 'fast-check';
import { expect, it } from 'vitest';
import { console as consoleWords } from '@porch/words/console';
import { programInWords } from './program-words.ts';

const browser = 'Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0.0.0 Safari/537.36';

it.each([
  [browser, 'Chromium on Linux'],
  [browser.replace('X11; Linux x86_64', 'Linux; Android 14'), 'Chromium on Android'],
  [`${browser} Edg/140.0`.replace('X11; Linux x86_64', 'Windows NT 10.0; Win64'), 'Edge on Windows'],
  ['Mozilla/5.0 (Macintosh; Intel Mac OS X 14.6; rv:142.0) Gecko/20100101 Firefox/142.0', 'Firefox on macOS'],
  ['porch on linux', 'porch on linux'],
  ['', 'a program that says nothing of itself'],
])('%s is read as %s', (says, words) => expect(programInWords(says, consoleWords.en.signIn)).toBe(words));

it('makes something short of whatever anybody sends', () => {
  fc.assert(
    fc.property(fc.string({ maxLength: 400 }), (says) => {
      const words = programInWords(says, consoleWords.en.signIn);
      expect(words.length).toBeGreaterThan(0);
      expect(words.length).toBeLessThanOrEqual(60);
    }),
  );
});
