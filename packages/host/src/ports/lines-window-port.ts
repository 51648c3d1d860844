export interface LinesWindowWords {
  readonly title: string;
  readonly close: string;
  readonly original: string;
  readonly fit: string;
}
export interface LinesWindow {
  /** These lines stand in it now, in a field of so many characters. */
  show(rows: readonly string[], columns: number): void;
  close(): void;
}
/** A window of the person's own desktop in which lines of text are shown as they change. */
export interface LinesWindowPort {
  /** `closed`: the person closed it. `failed`: it cannot be shown, or not any longer. */
  open(words: LinesWindowWords, on: { closed(): void; failed(error: unknown): void }): LinesWindow;
}
