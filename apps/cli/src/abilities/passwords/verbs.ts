import { printLine } from '../../print.ts';
import { results } from '../../words.ts';
import type { PrivateNow } from './kept.ts';

export function tellPrivate({ isPrivate, password }: PrivateNow): void {
  if (isPrivate) printLine(results.isPrivate);
  if (password) printLine(results.typesPassword[password.care]({ clock: password.for }));
}
