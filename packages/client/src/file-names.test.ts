import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { safeFileName } from './file-names.ts';

it('makes every name a plain name', () => {
  expect(
    ['../../etc/passwd', 'C:\\x\\y.txt', '.bashrc', 'CON', 'a\u0000b', '', '...', 'ok name.pdf'].map(safeFileName),
  ).toEqual(['passwd', 'y.txt', 'bashrc', '_CON', 'a_b', 'unnamed', 'unnamed', 'ok name.pdf']);
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (name) => {
      const safe = safeFileName(name);
      expect(safe).not.toMatch(/[/\\\u0000-\u001f]|^\.|[. ]$|^$/);
      expect([...safe].length).toBeLessThanOrEqual(121);
    }),
    runs(),
  );
});
