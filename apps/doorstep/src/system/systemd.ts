import { PartMissing } from '@porch/host';
import { existsSync } from 'node:fs';

/** Whether systemd started this computer, as its own tools find out (sd_booted(3)). */
export const hasSystemd = (): boolean => existsSync('/run/systemd/system');
/** Throws PartMissing where it did not. */
export function needSystemd(): void {
  if (!hasSystemd()) throw new PartMissing('not-there');
}

/** As one word of a command line of systemd (systemd.syntax(7)). */
export const unitWord = (word: string): string =>
  `"${word.replace(/[\\"]/g, '\\$&').replaceAll('%', '%%').replaceAll('$', '$$$$')}"`;
