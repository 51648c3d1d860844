import { z } from 'zod';
import { saidByRoot } from '../system/roots-own.ts';
import type { RootService } from '../system/root-service.ts';

/*
 * The bell at other desktops: a part of Doorstep that the owner of a computer installs, so that somebody who is signed in
 * there can be asked, at their own desktop, whether they come into a session. It starts one thing alone, Doorstep's question
 * there, and only for sessions of one help desk.
 */

export const BELL: RootService = {
  name: 'zesty-porch-bell',
  socket: '/run/zesty-porch-bell.socket',
  says: '/etc/zesty-porch/bell.json',
  socketIs: 'A bell at the desktops of this computer, for support sessions',
  serviceIs: 'Somebody at a desktop is asked into a support session',
  args: ['bell-part', '%i'],
};

const Hung = z.strictObject({
  /** The one help desk into whose sessions anybody is asked. */
  service: z.url().max(300),
  /** Whether the sign-in screen may be seen and worked, too. */
  hasSignInScreen: z.boolean(),
});
export type Hung = z.infer<typeof Hung>;
/** Undefined where there is none, or what is there is not root's own. */
export const bellHere = (): Hung | undefined => saidByRoot(BELL.says, Hung);

/** Whoever rings says it once; the connection is the wish: once it closes nobody is asked any longer. */
export const ToBell = z.strictObject({
  ring: z.string().regex(/^[\w-]{1,32}$/),
  link: z.string().min(1).max(400),
});
export type ToBell = z.infer<typeof ToBell>;
export const FromBell = z.discriminatedUnion('says', [
  /** They are being asked. */
  z.strictObject({ says: z.literal('rings') }),
  z.strictObject({ says: z.enum(['came', 'no', 'not-answered']) }),
  z.strictObject({ says: z.literal('refused'), why: z.string().max(120) }),
]);
export type FromBell = z.infer<typeof FromBell>;

/** What the bell says to Doorstep at that desktop, over what it is started with; and what it answers. */
export const ToAnswering = z.strictObject({ link: z.string().min(1).max(400) });
export type ToAnswering = z.infer<typeof ToAnswering>;
export const FromAnswering = z.strictObject({ says: z.enum(['came', 'no']) });
export type FromAnswering = z.infer<typeof FromAnswering>;

/** Whether a join link leads to that help desk, and nowhere else. */
export function leadsTo(link: string, service: string): boolean {
  if (!URL.canParse(link) || !URL.canParse(service)) return false;
  const { origin, pathname, search, hash, username, password } = new URL(link);
  const isPlain = search === '' && hash === '' && username === '' && password === '';
  return isPlain && origin === new URL(service).origin && /\/join\/[\w-]+$/.test(pathname);
}
