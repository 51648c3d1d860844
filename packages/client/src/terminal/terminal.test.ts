import { runs } from '@porch/testkit';
import fc from 'fast-check';
import stringWidth from 'string-width';
import { expect, it } from 'vitest';
import { csvOf } from './csv.ts';
import { forTerminal, MAX_COLUMNS, tableOf } from './table.ts';

const words = fc.oneof(
  fc.string({ unit: 'grapheme', maxLength: 60 }),
  fc.string({ unit: 'binary', maxLength: 40 }),
  fc.constantFrom(
    '港のランプ',
    'مكتب المساعدة',
    '⛴️ Fähre',
    '👩‍👩‍👧‍👦',
    '\u001b[2J\u001b]0;gone\u0007',
    'a\nb',
    '\u202eevil',
    'é',
  ),
);

it('stands in columns whatever script is in it, and obeys nothing that is in it', () => {
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.string({ unit: 'grapheme', maxLength: 20 }), words), { minLength: 1, maxLength: 6 }),
      (rows) => {
        const lines = tableOf(['NAME', 'WORDS'], rows);
        expect(lines).toHaveLength(rows.length + 1);
        const first = Math.max(4, ...rows.map(([name]) => stringWidth(forTerminal(name))));
        for (const [i, line] of lines.entries()) {
          expect(stringWidth(line)).toBeLessThanOrEqual(Math.max(MAX_COLUMNS, first + 10));
          expect(line).not.toMatch(/[\u0000-\u001f\u007f-\u009f\u202a-\u202e]/);
          const name = i === 0 ? 'NAME' : forTerminal(rows[i - 1]?.[0] ?? '');
          expect(line.startsWith(name) || name.trimEnd() === line).toBe(true);
          const rest = line.slice(name.length);
          const gap = first - stringWidth(name) + 2;
          if (rest.trim()) expect(rest.startsWith(' '.repeat(gap)), JSON.stringify(line)).toBe(true);
        }
      },
    ),
    runs(),
  );
});

it('cuts between characters, and ends what it began', () => {
  const [, line] = tableOf(['A'], [['👩‍👩‍👧‍👦'.repeat(80)]]);
  expect(line).toMatch(/…$/);
  expect(line?.replace('…', '').replaceAll('👩‍👩‍👧‍👦', '')).toBe('');
  const [, arabic] = tableOf(['A'], [['مكتب '.repeat(60)]]);
  expect(arabic?.endsWith('…\u2069')).toBe(true);
});

it('writes CSV that reads back as it was, and no formula', () => {
  const rows = [
    ['a,b', 'say "yes"'],
    ['two\r\nlines', ' x '],
    ['=1+1', '@SUM(A1)'],
  ];
  expect(csvOf(['ONE', 'TWO'], rows)).toBe(
    'ONE,TWO\r\n"a,b","say ""yes"""\r\n"two\r\nlines", x \r\n\'=1+1,\'@SUM(A1)\r\n',
  );
});
