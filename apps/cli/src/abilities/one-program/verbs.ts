import type { ShownPart } from '@porch/core';
import { printLine } from '../../print.ts';
import { results } from '../../words.ts';

export function tellShown(shows: ShownPart): void {
  if (shows !== 'everything') printLine(results.showsOne[shows]);
}
