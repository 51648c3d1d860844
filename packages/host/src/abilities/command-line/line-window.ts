import type { Kit } from '../../kit.ts';
import type { OpenCommandLine } from '../../ports/command-line-port.ts';
import type { LinesWindow, LinesWindowPort } from '../../ports/lines-window-port.ts';

/** How often the person here sees what stands there now. */
const SHOW_EVERY_MS = 250;

/** Where the person here sees what is done on a command line, and can end it. */
export class LineWindow {
  readonly #kit: Kit;
  readonly #open: OpenCommandLine;
  readonly #window: LinesWindow;
  #endWaiting: (() => void) | undefined;

  constructor(
    kit: Kit,
    port: LinesWindowPort,
    open: OpenCommandLine,
    who: string,
    on: { closed(): void; failed(error: unknown): void },
  ) {
    const { commandLine, ownScreen } = kit.words;
    const words = { title: commandLine.title({ who }), close: commandLine.close };
    this.#kit = kit;
    this.#open = open;
    this.#window = port.open({ ...words, original: ownScreen.original, fit: ownScreen.fit }, on);
    this.changed();
  }

  /** Something else stands there: it is shown soon. */
  changed(): void {
    this.#endWaiting ??= this.#kit.time.after(SHOW_EVERY_MS, () => {
      this.#endWaiting = undefined;
      this.#window.show(this.#open.rows(), this.#open.columns);
    });
  }

  close(): void {
    this.#endWaiting?.();
    this.#window.close();
  }
}
