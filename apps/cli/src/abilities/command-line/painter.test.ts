import { runs } from '@porch/testkit/seeds';
import headless, { type Terminal } from '@xterm/headless';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { Painter } from './painter.ts';

const [COLUMNS, ROWS] = [20, 6];
const make = () => new headless.Terminal({ cols: COLUMNS, rows: ROWS, scrollback: 0, allowProposedApi: true });
const taken = (terminal: Terminal, text: string) => new Promise<void>((resolve) => terminal.write(text, resolve));
/** Letters and looks of every cell, and where the cursor is. */
function seen(terminal: Terminal): string {
  const { active } = terminal.buffer;
  const cells = Array.from({ length: ROWS }, (_, y) =>
    Array.from({ length: COLUMNS }, (_, x) => {
      const cell = active.getLine(active.baseY + y)?.getCell(x);
      const look = [cell?.isBold(), cell?.isInverse(), cell?.isFgRGB(), cell?.getFgColor(), cell?.getBgColor()];
      return `${cell?.getWidth() ? cell.getChars() || ' ' : ''}/${look.map((one) => one || 0).join()}`;
    }).join('|'),
  );
  return [...cells, `${Math.min(active.cursorX, COLUMNS - 1)},${active.cursorY}`].join('\n');
}

const piece = fc.oneof(
  fc.constantFrom(
    ...['the ferry ', 'x'.repeat(COLUMNS), '日本', 'é', '\r', '\n', '\r\n', '\t', '\b', '\u0007'],
    ...['\u001b[2J', '\u001b[H', '\u001b[K', '\u001b[3;5H', '\u001b[A', '\u001b[2L', '\u001b[M', '\u001b[?1049h'],
    ...['\u001b[?1049l', '\u001b[?1h', '\u001b[?2004h', '\u001b[?25l', '\u001bc', '\u001b[4;6r', '\u001b[?1003h'],
    ...['\u001b]0;owned\u0007', '\u001b]52;c;b3duZWQ=\u0007', '\u001bP+q544e\u001b\\', '\u009b2J', '\u202e', '\u200b'],
  ),
  fc.array(fc.integer({ min: 0, max: 107 }), { maxLength: 5 }).map((look) => `\u001b[${look.join(';')}m`),
  fc.integer({ min: 0, max: 255 }).map((colour) => `\u001b[38;5;${colour}m\u001b[48;2;1;2;${colour}m`),
  fc.string({ unit: 'binary', maxLength: 6 }),
);

it('paints what another terminal shows, with nothing but its own sequences', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(fc.array(piece, { maxLength: 12 }), { maxLength: 5 }), async (turns) => {
      const [there, here] = [make(), make()];
      let raw = '';
      let told = () => undefined as void;
      const painter = new Painter({
        ...{ columns: COLUMNS, rows: ROWS, answer: () => undefined },
        write: (text) => {
          raw += text;
          told();
        },
      });
      await taken(here, raw);
      for (const turn of turns) {
        const text = turn.join('');
        await taken(there, text);
        const from = raw.length;
        const painted = new Promise<void>((resolve) => (told = resolve));
        painter.take(new TextEncoder().encode(text), () => undefined);
        await painted;
        await taken(here, raw.slice(from));
      }
      // What changes the direction of writing, and what is no letter at all, is left out on this side.
      if (
        !/[\u202e\u200b\u0080-\u009f]/.test(turns.flat().join('')) &&
        !/[^\u0000-\u00ff日本]/.test(turns.flat().join(''))
      )
        expect(seen(here)).toBe(seen(there));
      expect(raw).not.toMatch(/owned|b3duZWQ|544e|1003|\u202e|[\u0080-\u009f]/);

      expect(raw.replace(/\u001b(\[[?\d;]*[HKJmhl]|[=>])/g, '')).not.toMatch(/[\u0000-\u001f\u007f]/);
      painter.close();
    }),
    runs(),
  );
});
