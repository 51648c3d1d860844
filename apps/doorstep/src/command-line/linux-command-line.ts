import type { CommandLineEnded, CommandLineEvents, CommandLinePort, OpenCommandLine } from '@porch/host';
import { CommandLineRefused } from '@porch/host';
import type { IPty, spawn } from '@lydell/node-pty';
import { endRun, hasScopes, MARK } from '../runs/end-run.ts';
import { inScope, PATH, surroundingsOf } from '../runs/in-scope.ts';
import type { RunGuard } from '../runs/run-guard.ts';
import { folderFrom, ownShell } from './own-shell.ts';
import { Screen } from './screen.ts';

/** Printed and not yet looked at here: more is not read. */
const MOST_WAITING_BYTES = 256 * 1024;
/** Typed and not yet read by the program. */
const MOST_TYPED_BYTES = 256 * 1024;
/** What was printed before the end still comes for so long, once everything was ended. */
const DRAIN_MS = 1_000;
const TERMINAL = 'xterm-256color';

export interface LinuxCommandLineParts {
  readonly home: string;
  readonly guard: RunGuard;
  /** Begins a program behind a terminal. */
  readonly spawn: typeof spawn;
}

const environmentOf = (home: string, lineId: string): Record<string, string> => ({
  ...surroundingsOf(home),
  ...{ PATH, TERM: TERMINAL, COLORTERM: 'truecolor', [MARK]: lineId },
  // What technicians type is no part of what the person typed: no history of it is kept in their home.
  ...{ HISTFILE: '', LESSHISTFILE: '-' },
});

/** Command lines under Linux, with the rights of the person's own account. */
export const linuxCommandLine = ({ home, guard, spawn }: LinuxCommandLineParts): CommandLinePort => ({
  async open({ lineId, folder, columns, rows }, may, on) {
    const program = ownShell();
    const place = await folderFrom(home, folder);
    if (!may()) throw new CommandLineRefused('the customer has not allowed it');
    guard.report('run', lineId, true);
    try {
      const [file, ...args] = inScope(lineId, program);
      const pty = spawn(file, args, {
        ...{ name: TERMINAL, cols: columns, rows, cwd: place, env: environmentOf(home, lineId), encoding: null },
      });
      return new LinuxCommandLine(pty, { lineId, program, folder: place, guard }, { columns, rows }, on);
    } catch (error) {
      guard.report('run', lineId, false);
      throw error;
    }
  },
});

interface Begun {
  readonly lineId: string;
  readonly program: string;
  readonly folder: string;
  readonly guard: RunGuard;
}

class LinuxCommandLine implements OpenCommandLine {
  readonly program: string;
  readonly folder: string;
  readonly mayGoOn = !hasScopes();
  readonly ended: Promise<CommandLineEnded>;
  readonly #pty: IPty;
  readonly #begun: Begun;
  readonly #screen: Screen;
  #isWanted = true;
  #ending: Promise<boolean> | undefined;
  #isOver = false;
  #endedFromOutside = () => undefined as void;
  /** Somebody ended it: then it is over, even where its program does not go. */
  readonly #outside = new Promise<undefined>((resolve) => (this.#endedFromOutside = () => resolve(undefined)));

  constructor(
    pty: IPty,
    begun: Begun,
    size: { readonly columns: number; readonly rows: number },
    on: CommandLineEvents,
  ) {
    this.program = begun.program;
    this.folder = begun.folder;
    this.#pty = pty;
    this.#begun = begun;
    this.#screen = new Screen(size, on);
    // Without an encoding it gives bytes, whatever its types say.
    pty.onData((data) => {
      const bytes = data as unknown as Buffer;
      on.printed(bytes);
      this.#screen.take(bytes, () => this.#follow());
      this.#follow();
    });
    this.ended = this.#toItsEnd();
  }

  get columns(): number {
    return this.#screen.columns;
  }

  write(text: string): boolean {
    if (this.#isOver || typedBytes(this.#pty) > MOST_TYPED_BYTES) return false;
    this.#pty.write(text);
    return true;
  }
  resize(columns: number, rows: number): void {
    if (this.#isOver) return;
    this.#pty.resize(columns, rows);
    this.#screen.resize(columns, rows);
  }
  setReading(isOn: boolean): void {
    this.#isWanted = isOn;
    this.#follow();
  }
  rows(): string[] {
    return this.#isOver ? [] : this.#screen.rows();
  }
  screen(): Promise<Uint8Array> {
    return this.#isOver ? Promise.resolve(new Uint8Array()) : this.#screen.whole();
  }

  end(): void {
    // It says itself whether something is left, and never rejects.
    void this.#endAll().then(this.#endedFromOutside, this.#endedFromOutside);
  }
  /** Whether nothing is left. */
  #endAll(): Promise<boolean> {
    return (this.#ending ??= endRun(this.#begun.lineId, this.#pty.pid).catch(() => false));
  }

  #follow(): void {
    if (this.#isOver) return;
    if (this.#isWanted && this.#screen.waitingBytes < MOST_WAITING_BYTES) this.#pty.resume();
    else this.#pty.pause();
  }

  async #toItsEnd(): Promise<CommandLineEnded> {
    const exit = new Promise<number | undefined>((resolve) =>
      this.#pty.onExit(({ exitCode, signal }) => resolve(signal ? undefined : exitCode)),
    );
    try {
      // What it left in the background ends with it.
      const code = await Promise.race([exit, this.#outside]);
      const isAllGone = await this.#endAll();
      await Promise.race([exit, after(DRAIN_MS)]);
      this.#isOver = true;
      await this.#screen.finish();
      return { code, mayGoOn: !isAllGone };
    } finally {
      this.#isOver = true;
      this.#begun.guard.report('run', this.#begun.lineId, false);
    }
  }
}

const after = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
/** What waits in the stream beneath, which has no name in its types. */
const typedBytes = (pty: IPty): number =>
  (pty as unknown as { _socket?: { writableLength: number } })._socket?.writableLength ?? 0;
