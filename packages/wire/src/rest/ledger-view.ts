import { z } from 'zod';
import { AsideMessage, LedgerRowMessage } from '../live/live-messages.ts';

/** A session's ledger whole, and what the desk said among its own. */
export const LedgerView = z.object({
  sessionId: z.string(),
  rows: z.array(LedgerRowMessage),
  asideRows: z.array(LedgerRowMessage),
  asides: z.array(AsideMessage),
});
export type LedgerView = z.infer<typeof LedgerView>;
