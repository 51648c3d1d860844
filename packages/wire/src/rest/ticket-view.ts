import { z } from 'zod';

/** A ticket, as far as the desk shows and uses it. */
export const TicketView = z.object({
  ref: z.string(),
  title: z.string(),
  state: z.string(),
  requester: z.object({ name: z.string(), address: z.string(), telephone: z.string().max(40).optional() }),
  asset: z.string().optional(),
  /** What kind of device it is: a till, a ship's bridge. */
  assetLabel: z.string().optional(),
  technician: z.string().optional(),
  description: z.string(),
});
export type TicketView = z.infer<typeof TicketView>;
