import { safeFileName, TechnicianPrints, type PrinterThere } from '@porch/client';
import { takeFreeName } from '@porch/client/node';
import { AppError } from '@porch/wire';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { defineKept } from '../cli-ability.ts';
import { printsCalls } from './calls.ts';

/** A document as it stands in the list, the newest is number 1. */
export interface PrintoutRow {
  readonly number: number;
  readonly printId: string;
  readonly title: string;
  readonly sizeBytes: number;
  readonly isHere: boolean;
  readonly trouble: string | null;
}
export interface PrintsNow {
  readonly printer: PrinterThere | null;
  readonly documents: readonly PrintoutRow[];
}
const PRINTER_MS = 15_000;

export const keptPrints = defineKept({
  name: 'prints',
  calls: printsCalls,
  begin(kit) {
    const technician = new TechnicianPrints(kit.connection, () => kit.changed());
    const now = (): PrintsNow => ({
      printer: technician.printer ?? null,
      documents: technician.documents.map(({ printId, title, sizeBytes, bytes, trouble = null }, i) => ({
        ...{ number: i + 1, printId, title, sizeBytes, isHere: bytes !== undefined, trouble },
      })),
    });
    const here = () => technician.documents.flatMap(({ printId, bytes }) => (bytes ? [printId] : []));
    const listed = new Set<string>();
    return { kit, technician, now, here, listed, close: () => technician.close() };
  },
  answer: {
    async prints({ kit, technician, now, here, listed }, { waitMs }) {
      const isKnown = () => technician.printer !== undefined && technician.printer.is !== 'opening';
      if (kit.may('take-prints')) await kit.until(isKnown, PRINTER_MS);
      if (waitMs) await kit.until(() => here().some((printId) => !listed.has(printId)), waitMs);
      for (const printId of here()) listed.add(printId);
      return now();
    },
    async savePrint({ technician, now }, { which, file, folder }) {
      const row = now().documents.find(({ number, printId }) => String(number) === which || printId === which);
      const bytes = technician.documents.find(({ printId }) => printId === row?.printId)?.bytes;
      if (!row || !bytes) throw new AppError('NOT_FOUND');
      const written = file ?? join(folder, `.${row.printId}.pdf`);
      await writeFile(written, bytes, { mode: 0o600 });
      // What lies there already is somebody's; only one that was named is written over.
      const path = file ?? (await takeFreeName(written, folder, `${safeFileName(row.title)}.pdf`));
      return { ...row, file: path };
    },
  },
});
