/** Hears of a printer before it is in the list and once it is not any longer, so that somebody takes it out if this process dies. */
export interface PrinterGuard {
  report(what: 'printer', printer: string, isThere: boolean): void;
}
