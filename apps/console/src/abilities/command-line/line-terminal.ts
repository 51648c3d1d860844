import { FitAddon } from '@xterm/addon-fit';
import { SearchAddon } from '@xterm/addon-search';
import { Terminal, type ITheme } from '@xterm/xterm';
import '@xterm/xterm/css/xterm.css';
import { MAX_PASTE_CHARACTERS } from '@porch/wire';

/** Operating system commands (ECMA-48, OSC) that a computer far away has no business with here: titles, links, the clipboard. */
const refused: readonly number[] = [0, 1, 2, 7, 8, 9, 52, 777];
const SCROLLBACK_LINES = 5_000;
const family = "'DejaVu Sans Mono', 'Liberation Mono', monospace";
const [LEAST_FONT_PX, MOST_FONT_PX] = [10, 24];

/** Deep harbour ground, with sixteen colours that can all be read on it. */
const theme: ITheme = {
  background: '#10262a',
  foreground: '#e9f2ee',
  cursor: '#f2b84b',
  cursorAccent: '#10262a',
  selectionBackground: '#3c6a70',
  black: '#6f8583',
  red: '#ff9a8d',
  green: '#9bd39a',
  yellow: '#eac66a',
  blue: '#93bdf2',
  magenta: '#dba6e0',
  cyan: '#7fd0d2',
  white: '#dfe8e4',
  brightBlack: '#93a7a4',
  brightRed: '#ffb8ae',
  brightGreen: '#bbe6b9',
  brightYellow: '#f5dc97',
  brightBlue: '#b9d5fa',
  brightMagenta: '#ebc6ef',
  brightCyan: '#abe5e6',
  brightWhite: '#ffffff',
};

export interface LineTerminalOn {
  keys(text: string): void;
  size(columns: number, rows: number): void;
  /** What is pasted is more than can be typed. */
  tooMuch(): void;
  /** Whether this page has another use for a key. */
  isForPage(event: KeyboardEvent): boolean;
  find(): void;
}

/** A terminal of this page: it shows what a computer far away prints, and does nothing else that this asks for. */
export class LineTerminal {
  readonly #terminal: Terminal;
  readonly #fit = new FitAddon();
  readonly #search = new SearchAddon();
  readonly #on: LineTerminalOn;

  constructor(on: LineTerminalOn, name: string) {
    this.#on = on;
    this.#terminal = new Terminal({
      ...{ theme, fontFamily: family, fontSize: 14, scrollback: SCROLLBACK_LINES, allowProposedApi: true },
      ...{ macOptionIsMeta: true, rightClickSelectsWord: false, cursorBlink: false },
    });
    this.#terminal.loadAddon(this.#fit);
    this.#terminal.loadAddon(this.#search);
    for (const command of refused) this.#terminal.parser.registerOscHandler(command, () => true);
    this.#terminal.onData((text) => on.keys(text));
    this.#terminal.onResize(({ cols, rows }) => on.size(cols, rows));
    this.#terminal.attachCustomKeyEventHandler((event) => this.#isForTerminal(event));
    this.#name = name;
  }
  readonly #name: string;

  get size(): { readonly columns: number; readonly rows: number } {
    return { columns: this.#terminal.cols, rows: this.#terminal.rows };
  }

  /** Puts it into a place of the page, and makes it as large as that. */
  put(place: HTMLElement): void {
    const { element } = this.#terminal;
    if (element) place.append(element);
    else {
      this.#terminal.open(place);
      this.#terminal.textarea?.setAttribute('aria-label', this.#name);
      this.#terminal.element?.addEventListener('paste', (event) => this.#checkPaste(event), { capture: true });
    }
    this.fit();
  }
  fit(): void {
    // A place that is not shown has no size; the last one stays.
    if (this.#terminal.element?.parentElement?.clientHeight) this.#fit.fit();
  }
  focus(): void {
    this.#terminal.focus();
  }

  /** `done`: it was taken, and more may come. */
  write(bytes: Uint8Array, done: () => void): void {
    this.#terminal.write(bytes, done);
  }
  reset(): void {
    this.#terminal.reset();
  }

  get selected(): string {
    return this.#terminal.getSelection();
  }
  /** Whether there is one more. */
  find(words: string, isBack: boolean): boolean {
    return isBack ? this.#search.findPrevious(words) : this.#search.findNext(words);
  }
  /** Larger or smaller letters. */
  zoom(step: 1 | -1): void {
    const now = this.#terminal.options.fontSize ?? 14;
    this.#terminal.options.fontSize = Math.min(MOST_FONT_PX, Math.max(LEAST_FONT_PX, now + step));
    this.fit();
  }
  /** Says new lines to readers of the screen. */
  setReadAloud(isOn: boolean): void {
    this.#terminal.options.screenReaderMode = isOn;
  }

  close(): void {
    this.#terminal.dispose();
  }

  #isForTerminal(event: KeyboardEvent): boolean {
    if (this.#on.isForPage(event)) return false;
    if (!event.ctrlKey || !event.shiftKey) return true;
    // As terminals have it: without Shift these mean something to programs.
    const key = event.key.toLowerCase();
    if (key === 'c' && this.selected) {
      event.preventDefault();
      if (event.type === 'keydown') void navigator.clipboard.writeText(this.selected).catch(() => undefined);
      return false;
    }
    if (key === 'f') {
      event.preventDefault();
      if (event.type === 'keydown') this.#on.find();
      return false;
    }
    // The browser pastes by itself.
    return key !== 'v';
  }
  #checkPaste(event: ClipboardEvent): void {
    if ((event.clipboardData?.getData('text/plain').length ?? 0) <= MAX_PASTE_CHARACTERS) return;
    event.preventDefault();
    event.stopPropagation();
    this.#on.tooMuch();
  }
}
