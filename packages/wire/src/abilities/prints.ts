import { MAX_PRINT_TITLE_CHARACTERS } from '@porch/core';
import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';
import { hex } from '../sealed/fields.ts';

/** The largest document that is taken from a printer. */
export const MAX_PRINT_BYTES = 64 * 1024 * 1024;

const id = z.uuid();
const sizeBytes = z.int().min(1).max(MAX_PRINT_BYTES);

/** `opening` is on its way into the computer's list; `broken` is not there, and why. */
export const PrinterIs = z.enum(['opening', 'ready', 'resting', 'broken']);
export type PrinterIs = z.infer<typeof PrinterIs>;

/**
 * Technician ↔ the customer's side. `look` asks how the printer stands and for everything that was printed on it and is
 * still there; later ones are told as they come. A document is a PDF (ISO 32000-1), which whoever receives it asks for
 * piece by piece with `want`; asking for what is behind its end says that it has arrived.
 */
export const PrintsMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('look') }),
  z.strictObject({ type: z.literal('want'), printId: id, offset: z.int().min(0).max(MAX_PRINT_BYTES) }),
  z.strictObject({
    type: z.literal('printer'),
    is: PrinterIs,
    /** As it is called in the list of printers there. */
    name: z.string().max(MAX_PRINT_TITLE_CHARACTERS),
    why: z.string().max(120),
  }),
  z.strictObject({
    type: z.literal('document'),
    printId: id,
    title: z.string().max(MAX_PRINT_TITLE_CHARACTERS),
    sizeBytes,
    sha256: hex(64),
  }),
  z.strictObject({ type: z.literal('refused'), printId: id, why: z.string().max(120) }),
]);
export type PrintsMessage = z.infer<typeof PrintsMessage>;

export const printsChannel = defineChannel({
  name: 'prints',
  id: 26,
  line: 'bulk',
  message: PrintsMessage,
  needs: { toCustomer: ['take-prints'], toDesk: ['take-prints'] },
  hasChunks: true,
  isForDoorstep: true,
});
