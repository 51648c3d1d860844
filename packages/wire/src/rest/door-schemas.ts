import { Behind, Language } from '@porch/core';
import { z } from 'zod';
import { InEveryLanguage } from './in-every-language.ts';
import { SessionView } from './rest-schemas.ts';
import { rulesForDoorstep } from './rules-for-doorstep.ts';

/** What a person at the front door learns before they say who they are. */
export const DoorView = z.object({
  sessionId: z.string(),
  technicianName: z.string(),
  deskName: z.string(),
  deskPhone: z.string(),
  ticketRef: z.string().optional(),
  purpose: z.string(),
  behind: Behind,
  language: Language,
  customerName: z.string(),
  customerAddress: z.string(),
  phase: SessionView.shape.phase,
  noticeVersion: z.string(),
  /** The whole of it, in every language. */
  notice: InEveryLanguage,
  ...rulesForDoorstep,
  /** Doorstep as a file that knows this session, where the desk hands it out. */
  download: z.object({ version: z.string(), publisher: z.string(), sizeBytes: z.number() }).optional(),
  doorstepLink: z.string(),
  /** For Doorstep alone: one half of what it seals its keys with while they lie on the disk. It ends with the pass. */
  keyHalf: z.string().max(100).optional(),
});
export type DoorView = z.infer<typeof DoorView>;

export const Joined = z.object({ door: DoorView, token: z.string() });
export type Joined = z.infer<typeof Joined>;
