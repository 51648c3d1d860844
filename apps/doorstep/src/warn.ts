import type { Logger } from 'pino';

/** Says that something is wrong which the session goes on without: why, and what it means. */
export type Warn = (why: string, words: string) => void;

export const warnTo =
  (log: Logger): Warn =>
  (why, words) =>
    log.warn({ why }, words);
