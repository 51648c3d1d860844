import type { ConsoleWords } from '@porch/words/console/shape';
import type { PrinterThere } from './prints.ts';

/** How the printer stands, in the same sentences in the console and on the command line; `why` in the reader's language. */
export function printerInWords({ is, name, why }: PrinterThere, { printer }: ConsoleWords['prints']): string {
  if (is === 'ready') return printer.ready({ name });
  return is === 'opening' ? printer.opening : printer[is]({ why });
}
