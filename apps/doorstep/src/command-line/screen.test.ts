import { runs } from '@porch/testkit/seeds';
import headless from '@xterm/headless';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { Screen } from './screen.ts';

const size = { columns: 40, rows: 8 };
const ALL_LINES = 1_000;
const WIDE = 400;
function begin(columns = size.columns) {
  const said: string[] = [];
  const screen = new Screen({ ...size, columns }, { settled: (text) => said.push(text), changed: () => undefined });
  const take = (text: string) =>
    new Promise<void>((resolve) => {
      const bytes = new TextEncoder().encode(text);
      if (bytes.length) screen.take(bytes, () => screen.waitingBytes || resolve());
      else resolve();
    });
  return { screen, take, said: () => said.join('') };
}

it('says each line once the program is done with it, as it stood there, however the bytes come', async () => {
  const line = fc.constantFrom('the ferry leaves', 'noon', '', 'x'.repeat(95), '日本 👍');
  await fc.assert(
    fc.asyncProperty(fc.array(line, { maxLength: 40 }), fc.array(fc.nat(), { maxLength: 8 }), async (lines, cuts) => {
      const { screen, take, said } = begin();
      const whole = lines.map((text) => `${text}\r\n`).join('');
      const at = [0, ...cuts.map((cut) => cut % (whole.length + 1)).sort((a, b) => a - b), whole.length];
      // A piece of a character is for the decoder, which is not ours.
      for (const [i, end] of at.slice(1).entries()) {
        const part = whole.slice(at[i], end);
        if (/[\ud800-\udbff]$|^[\udc00-\udfff]/.test(part)) return;
        await take(part);
      }
      await screen.finish();
      const plain = (text: string) => text.split('\n').filter((one) => one !== '');
      expect(plain(said())).toEqual(plain(lines.join('\n')));
    }),
    runs(),
  );
});

it('says what was erased whole, what was rubbed out never, and of a full screen what it left', async () => {
  const { screen, take, said } = begin();
  await take('wrong\b\b\b\b\bright\r\nsecond\r\n\u001b[H\u001b[2Jafter\r\n');
  expect(said()).toBe('right\nsecond\nafter\n');
  await take('\u001b[?1049h\u001b[2;3Ha menu\u001b[4;1Hits end');
  expect(said()).toBe('right\nsecond\nafter\n');
  expect(screen.rows()).toHaveLength(size.rows);
  await take('\u001b[?1049l');
  expect(said()).toBe('right\nsecond\nafter\n\n  a menu\n\nits end\n');
  await take('$ ');
  expect(screen.rows()[1]).toBe('$ ');
  await screen.finish();
  expect(said().endsWith('its end\n$ \n')).toBe(true);
});

it('is whole for a terminal that has none of it', async () => {
  const piece = fc.constantFrom(
    ...[
      'the ferry ',
      '\r\n',
      '日本',
      '\u001b[31m',
      '\u001b[0m',
      '\u001b[H',
      '\u001b[2J',
      '\u001b[3;5H',
      '\u001b[K',
      '\b',
    ],
    ...['\u001b[?1049h', '\u001b[?1049l', '\u001b[1;4m', '\t'],
  );
  // Lines that are broken are left out: of one whose first part was erased what puts screens together leaves a hyphen.
  await fc.assert(
    fc.asyncProperty(fc.array(piece, { maxLength: 20 }), async (pieces) => {
      const { screen, take } = begin(WIDE);
      await take(pieces.join(''));
      const fresh = new headless.Terminal({
        cols: WIDE,
        rows: size.rows,
        scrollback: ALL_LINES,
        allowProposedApi: true,
      });
      const whole = await screen.whole();
      await new Promise<void>((resolve) => fresh.write(whole, resolve));
      const { active } = fresh.buffer;
      const from = active.type === 'alternate' ? 0 : Math.max(0, active.baseY + active.cursorY + 1 - 14);
      const rows = screen.rows().map((_, row) => active.getLine(from + row)?.translateToString(true) ?? '');
      expect(rows).toEqual(screen.rows());
      await screen.finish();
    }),
    runs(),
  );
});
