import { MAX_ACCOUNT_CHARACTERS } from '@porch/core';
import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';

/** More are signed in at no computer that somebody sits at. */
export const MAX_DESKTOPS = 40;

const id = z.uuid();
/** As the computer numbers its sessions (systemd's logind). */
const desktop = z.string().regex(/^[\w-]{1,32}$/);

/** What somebody is signed in with: a desktop, the sign-in screen itself, or a line without a desktop. */
export const DesktopKind = z.enum(['person', 'sign-in-screen', 'no-desktop']);
export type DesktopKind = z.infer<typeof DesktopKind>;
/** Why nobody there can be asked in from here. */
export const WhyNoRing = z.enum(['this-one', 'no-bell', 'no-desktop', 'not-opened']);
export type WhyNoRing = z.infer<typeof WhyNoRing>;

/** What came of asking somebody at another desktop. */
export const RingAnswer = z.enum(['came', 'no', 'not-answered', 'taken-back']);
export type RingAnswer = z.infer<typeof RingAnswer>;

export const DesktopRow = z.strictObject({
  desktop,
  account: z.string().min(1).max(MAX_ACCOUNT_CHARACTERS),
  /** As the computer's list of accounts says who that is; empty where it says nothing. */
  name: z.string().max(MAX_ACCOUNT_CHARACTERS),
  kind: DesktopKind,
  isInFront: z.boolean(),
  sinceMs: z.int().min(0),
  whyNot: WhyNoRing.optional(),
});
export type DesktopRow = z.infer<typeof DesktopRow>;

/**
 * Technician ↔ the customer's side. `look` asks for the list, which is sent anew whenever it is other than before, until
 * the permission ends. `ring` asks whoever is at a desktop whether they come in, by a join link for them alone; `stop` takes
 * it back. It is answered once.
 */
export const DesktopsMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('look') }),
  z.strictObject({ type: z.literal('ring'), id, desktop, link: z.string().min(1).max(400) }),
  z.strictObject({ type: z.literal('stop'), id }),
  z.strictObject({ type: z.literal('desktops'), rows: z.array(DesktopRow).max(MAX_DESKTOPS) }),
  z.strictObject({ type: z.literal('answer'), id, how: RingAnswer }),
  z.strictObject({ type: z.literal('refused'), id, why: z.string().max(120) }),
]);
export type DesktopsMessage = z.infer<typeof DesktopsMessage>;

export const desktopsChannel = defineChannel({
  name: 'desktops',
  id: 27,
  line: 'interactive',
  message: DesktopsMessage,
  needs: { toCustomer: ['call-desktops'], toDesk: ['call-desktops'] },
  isForDoorstep: true,
});
