import { SerializeAddon } from '@xterm/addon-serialize';
import headless, { type IMarker, type Terminal } from '@xterm/headless';

/** Lines above the screen that are kept: more than one piece can hold, so that each is seen before it goes. */
const KEPT_LINES = 5_000;
const PIECE_BYTES = 4_096;
/** What the person here sees of it at once: large enough to be read, in a window that leaves room for their work. */
const LAST_ROWS = 14;
/** Lines above the screen that a fresh terminal gets. */
const SHOWN_LINES = 1_000;
/** Private modes that lead back from the other screen (xterm's control sequences, DECRST). */
const otherScreens: readonly number[] = [47, 1047, 1049];

export interface ScreenEvents {
  /** Text that stands there and that the program is done with. */
  settled(text: string): void;
  changed(): void;
}

/** What a terminal shows of what a program prints, without one: as text, and whole for another terminal. */
export class Screen {
  readonly #terminal: Terminal;
  readonly #serialize = new SerializeAddon();
  readonly #on: ScreenEvents;
  /** The first line of which nothing was said. */
  #next: IMarker | undefined;
  #waitingBytes = 0;
  #isClosed = false;

  constructor({ columns, rows }: { readonly columns: number; readonly rows: number }, on: ScreenEvents) {
    this.#on = on;
    this.#terminal = new headless.Terminal({
      ...{ cols: columns, rows, scrollback: KEPT_LINES, allowProposedApi: true, logLevel: 'off' },
    });
    this.#terminal.loadAddon(this.#serialize as never);
    this.#terminal.parser.registerCsiHandler({ prefix: '?', final: 'l' }, (modes) => {
      if (modes.some((mode) => otherScreens.includes(mode as number))) this.#sayOtherScreen();
      return false;
    });
    // What is erased whole (ED, RIS) in one go with what was printed would never have stood there.
    const sayErased = () => {
      this.#sayErased();
      return false;
    };
    this.#terminal.parser.registerCsiHandler({ final: 'J' }, ([how]) => (how === 2 || how === 3 ? sayErased() : false));
    this.#terminal.parser.registerEscHandler({ final: 'c' }, sayErased);
  }

  get columns(): number {
    return this.#terminal.cols;
  }
  /** Taken and not yet looked at. */
  get waitingBytes(): number {
    return this.#waitingBytes;
  }

  /** `done`: a piece of it was looked at. */
  take(bytes: Uint8Array, done: () => void): void {
    this.#waitingBytes += bytes.length;
    for (let at = 0; at < bytes.length; at += PIECE_BYTES) {
      const piece = bytes.subarray(at, at + PIECE_BYTES);
      this.#terminal.write(piece, () => {
        this.#waitingBytes -= piece.length;
        if (this.#isClosed) return;
        this.#settle();
        this.#on.changed();
        done();
      });
    }
  }

  resize(columns: number, rows: number): void {
    this.#terminal.resize(columns, rows);
    this.#on.changed();
  }

  /** The lines that were written last; all of them where a program fills the whole screen. */
  rows(): string[] {
    const { active } = this.#terminal.buffer;
    if (active.type === 'alternate') return this.#allRows();
    const from = Math.max(0, active.baseY + active.cursorY + 1 - LAST_ROWS);
    return Array.from({ length: LAST_ROWS }, (_, row) => active.getLine(from + row)?.translateToString(true) ?? '');
  }
  #allRows(): string[] {
    const { active } = this.#terminal.buffer;
    return Array.from(
      { length: this.#terminal.rows },
      (_, row) => active.getLine(active.baseY + row)?.translateToString(true) ?? '',
    );
  }

  /** Resolves once everything was looked at that was taken before. */
  whole(): Promise<Uint8Array> {
    return new Promise((resolve) => {
      this.#terminal.write('', () =>
        resolve(new TextEncoder().encode(this.#serialize.serialize({ scrollback: SHOWN_LINES }))),
      );
    });
  }

  /** Nothing more comes: what stands in the last line is said, too. Resolves once all of it was. */
  finish(): Promise<void> {
    return new Promise((resolve) => {
      this.#terminal.write('', () => {
        this.#sayOtherScreen();
        const { normal } = this.#terminal.buffer;
        this.#say(this.#from(), normal.baseY + normal.cursorY + 1);
        this.#isClosed = true;
        this.#terminal.dispose();
        resolve();
      });
    });
  }

  /** The first line of which nothing was said; the first of all where that one went already. */
  get #unsaid(): number {
    return this.#next === undefined || this.#next.isDisposed ? 0 : this.#next.line;
  }
  /** The same; a screen that was cleared begins again where the program writes now. */
  #from(): number {
    const { normal } = this.#terminal.buffer;
    return Math.min(this.#unsaid, normal.baseY + normal.cursorY);
  }

  /** Lines above the one that is being written. */
  #settle(): void {
    const { buffer } = this.#terminal;
    if (buffer.active.type === 'alternate') return;
    const { normal } = buffer;
    const cursor = normal.baseY + normal.cursorY;
    let end = cursor;
    while (end > 0 && normal.getLine(end)?.isWrapped) end--;
    this.#say(this.#from(), end);
    this.#goOnFrom(end - cursor);
  }
  /** Everything that stands there, wherever the program writes now. */
  #sayErased(): void {
    const { buffer, rows } = this.#terminal;
    if (buffer.active.type === 'alternate') return;
    const { normal } = buffer;
    let end = normal.baseY + rows;
    while (end > 0 && !normal.getLine(end - 1)?.translateToString(true)) end--;
    this.#say(this.#unsaid, end);
    this.#goOnFrom(0);
  }
  /** `offset`: from the line in which the program writes. */
  #goOnFrom(offset: number): void {
    this.#next?.dispose();
    this.#next = this.#terminal.registerMarker(offset);
  }
  #say(from: number, end: number): void {
    if (end <= from) return;
    const { normal } = this.#terminal.buffer;
    let text = '';
    for (let at = from; at < end; at++) {
      const line = normal.getLine(at);
      const isLast = !normal.getLine(at + 1)?.isWrapped;
      text += (line?.translateToString(isLast) ?? '') + (isLast ? '\n' : '');
    }
    if (text.trim()) this.#on.settled(text);
  }
  /** What a program that fills the whole screen left on it; nothing where none does. */
  #sayOtherScreen(): void {
    const { active } = this.#terminal.buffer;
    if (active.type !== 'alternate') return;
    const text = this.#allRows().join('\n').trimEnd();
    if (text.trim()) this.#on.settled(`${text}\n`);
  }
}
