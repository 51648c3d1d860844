/** A program with windows on this desktop, by the title of one of them. */
export interface ProgramWindows {
  readonly program: number;
  readonly title: string;
  readonly isHidden: boolean;
  /** Nothing else is shown. */
  readonly isOnlyOne: boolean;
}

/** What of this computer can be seen at most: all that is not hidden, one program, or nothing, because that was closed. */
export type ShownNow =
  { readonly what: 'everything' } | { readonly what: 'program' | 'nothing'; readonly title: string };

/** Windows that never leave the computer. */
export interface HidingPort {
  /** Never shows windows of programs with such a title, from now on; answers how many were found. */
  hideTitled(words: string): Promise<number>;
  listPrograms(): Promise<ProgramWindows[]>;
  /** These programs' windows never leave the computer from now on; those of others may again. */
  setHidden(programs: readonly number[]): Promise<void>;
  /** Whether any program's windows are hidden by the person here. */
  readonly hidesAny: boolean;
  readonly shown: ShownNow;
  /** From now on nothing but the windows of this program, as listed, and of it what is not hidden; undefined: of all programs. */
  showOnly(program: number | undefined): Promise<void>;
  onShownChanged(listener: () => void): () => void;
  /** Whether whoever presses there presses something that can be seen. */
  isInReach(x: number, y: number): boolean;
  /** Whether what is typed now goes to something that can be seen. */
  isKeyboardInReach(): Promise<boolean>;
}
