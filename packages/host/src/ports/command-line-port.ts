/** A command line as it is asked for: in that folder, or at home where none is named. */
export interface CommandLineToOpen {
  /** Marks everything that is begun on it. */
  readonly lineId: string;
  readonly folder: string;
  readonly columns: number;
  readonly rows: number;
}
export interface CommandLineEvents {
  /** Bytes as the program printed them. */
  printed(bytes: Uint8Array): void;
  /** Text that stands there and that the program is done with, without anything that makes terminals do something. */
  settled(text: string): void;
  /** Something else stands on it now. */
  changed(): void;
}
export interface CommandLineEnded {
  /** Undefined when it was ended from outside. */
  readonly code: number | undefined;
  /** Something that was begun on it could not be ended. */
  readonly mayGoOn: boolean;
}

/** A program of the person's own behind a terminal. */
export interface OpenCommandLine {
  readonly program: string;
  readonly folder: string;
  /** Here not everything that is begun on it can be ended with it for certain. */
  readonly mayGoOn: boolean;
  /** As if it were typed. False when too much waits for the program already: then nothing of it was. */
  write(text: string): boolean;
  resize(columns: number, rows: number): void;
  /** Nothing more is read while it is off; a program that goes on printing waits. */
  setReading(isOn: boolean): void;
  readonly columns: number;
  /** The lines that were written last, or all of them where a program fills the whole screen. */
  rows(): readonly string[];
  /** What makes a fresh terminal look like this one once it took all that `printed` brought so far. */
  screen(): Promise<Uint8Array>;
  /** Ends it with everything that was begun on it; `ended` says how. */
  end(): void;
  /** Once it ended, by itself or not, and nothing of it is left. */
  readonly ended: Promise<CommandLineEnded>;
}

/** Why none is opened here, in words that technicians read. */
export class CommandLineRefused extends Error {}

/** A command line of this computer, with the rights of the person here. */
export interface CommandLinePort {
  /** `may` is asked in the very tick that begins. Rejects with CommandLineRefused. */
  open(asked: CommandLineToOpen, may: () => boolean, on: CommandLineEvents): Promise<OpenCommandLine>;
}
