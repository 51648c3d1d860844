import { plainOutput } from '@porch/core';
import headless, { type IBufferCell, type IBufferLine, type Terminal } from '@xterm/headless';

/* What their terminal shows, painted onto this one. Not one byte of what they print gets here as it is: a screen is kept
 * beside it, and its letters and colours alone are drawn, with the control sequences that stand in this file (ECMA-48,
 * and the private modes that every terminal of today has). */
const ESC = '\u001b[';
const OTHER_SCREEN = `${ESC}?1049h${ESC}2J`;
const FIRST_SCREEN = `${ESC}0m${ESC}?1l\u001b>${ESC}?2004l${ESC}?25h${ESC}?1049l`;
const ERASE_REST = `${ESC}K`;
const PAINT_EVERY_MS = 16;
/** DECTCEM: whether the cursor is in sight. */
const CURSOR_MODE = 25;

/** The look of a cell, as SGR parameters. */
function lookOf(cell: IBufferCell): string {
  const colour = (kind: 38 | 48, isPalette: boolean, isRgb: boolean, value: number) =>
    isRgb
      ? `;${kind};2;${(value >> 16) & 255};${(value >> 8) & 255};${value & 255}`
      : isPalette
        ? `;${kind};5;${value & 255}`
        : '';
  const flag = (is: number, parameter: number) => (is ? `;${parameter}` : '');
  return [
    '0',
    flag(cell.isBold(), 1),
    flag(cell.isDim(), 2),
    flag(cell.isItalic(), 3),
    flag(cell.isUnderline(), 4),
    flag(cell.isInverse(), 7),
    flag(cell.isInvisible(), 8),
    flag(cell.isStrikethrough(), 9),
    colour(38, cell.isFgPalette(), cell.isFgRGB(), cell.getFgColor()),
    colour(48, cell.isBgPalette(), cell.isBgRGB(), cell.getBgColor()),
  ].join('');
}

/** A row, up to where nothing but ground follows. */
function rowInSequences(line: IBufferLine | undefined, columns: number): string {
  let [row, look, used, end] = ['', '', 0, 0];
  for (let x = 0; x < columns; x++) {
    const cell = line?.getCell(x);
    if (cell?.getWidth() === 0) continue;
    const next = cell ? lookOf(cell) : '0';
    if (next !== look) row += `${ESC}${next}m`;
    look = next;
    const letter = plainOutput(cell?.getChars() ?? '').replace(/[\n\t]/g, '') || ' ';
    row += letter;
    if (letter !== ' ' || next !== '0') [used, end] = [row.length, x + (cell?.getWidth() ?? 1)];
  }
  // What is erased behind the last column is the last column.
  return `${row.slice(0, used)}${ESC}0m${end < columns ? ERASE_REST : ''}`;
}

export interface PainterParts {
  readonly columns: number;
  readonly rows: number;
  write(text: string): void;
  /** What a terminal says by itself when it is asked. */
  answer(text: string): void;
}

/** Another terminal's screen on this one. */
export class Painter {
  readonly #parts: PainterParts;
  readonly #terminal: Terminal;
  #painted: string[] = [];
  #modes = '';
  #isCursorShown = true;
  #notice: string | undefined;
  #timer: ReturnType<typeof setTimeout> | undefined;

  constructor(parts: PainterParts) {
    const { columns, rows } = parts;
    this.#parts = parts;
    this.#terminal = new headless.Terminal({
      cols: columns,
      rows,
      scrollback: 0,
      allowProposedApi: true,
      logLevel: 'off',
    });
    this.#terminal.onData((text) => parts.answer(text));
    for (const [final, isShown] of [
      ['h', true],
      ['l', false],
    ] as const)
      this.#terminal.parser.registerCsiHandler({ prefix: '?', final }, (modes) => {
        if (modes.includes(CURSOR_MODE)) this.#isCursorShown = isShown;
        return false;
      });
    parts.write(OTHER_SCREEN);
  }

  /** `done`: it was taken. */
  take(bytes: Uint8Array, done: () => void): void {
    this.#terminal.write(bytes, () => {
      done();
      this.#paintSoon();
    });
  }
  reset(): void {
    this.#terminal.reset();
    this.#isCursorShown = true;
    this.#paintSoon();
  }
  resize(columns: number, rows: number): void {
    this.#terminal.resize(columns, rows);
    this.#painted = [];
    this.#parts.write(`${ESC}2J`);
    this.#paintSoon();
  }
  /** Over the last line, until it is taken away. */
  say(notice: string | undefined): void {
    if (notice === this.#notice) return;
    this.#notice = notice;
    this.#paintSoon();
  }

  close(): void {
    clearTimeout(this.#timer);
    this.#terminal.dispose();
    this.#parts.write(FIRST_SCREEN);
  }

  #paintSoon(): void {
    this.#timer ??= setTimeout(() => {
      this.#timer = undefined;
      this.#paint();
    }, PAINT_EVERY_MS);
  }

  #paint(): void {
    const { buffer, cols, rows, modes } = this.#terminal;
    const { active } = buffer;
    let text = '';
    for (let y = 0; y < rows; y++) {
      const isNotice = this.#notice !== undefined && y === rows - 1;
      const row = isNotice
        ? `${ESC}0;7m ${plainOutput(this.#notice ?? '').slice(0, cols - 3)} ${ESC}0m${ERASE_REST}`
        : rowInSequences(active.getLine(active.baseY + y), cols);
      if (row === this.#painted[y]) continue;
      this.#painted[y] = row;
      text += `${ESC}${y + 1};1H${row}`;
    }
    const now = [
      modes.applicationCursorKeysMode ? `${ESC}?1h` : `${ESC}?1l`,
      modes.applicationKeypadMode ? '\u001b=' : '\u001b>',
      modes.bracketedPasteMode ? `${ESC}?2004h` : `${ESC}?2004l`,
      this.#isCursorShown ? `${ESC}?25h` : `${ESC}?25l`,
    ].join('');
    if (now !== this.#modes) text += now;
    this.#modes = now;
    this.#parts.write(`${text}${ESC}${active.cursorY + 1};${Math.min(active.cursorX, cols - 1) + 1}H`);
  }
}
