import { z } from 'zod';
import { refuse, type Decision } from '../decision.ts';
import { transitionBy } from '../transition.ts';

/** How a customer can be asked in. */
export const InvitationWay = z.enum(['link', 'ticket-comment', 'mail', 'text-message', 'qr', 'calendar', 'join-file']);
export type InvitationWay = z.infer<typeof InvitationWay>;

/** Ways that somebody else carries: they have a delivery, the others are handed over by the technician. */
export const carriedWays: readonly InvitationWay[] = ['ticket-comment', 'mail', 'text-message'];

/** Where an invitation is on its way to the customer. */
export type Delivery =
  | { name: 'ready' }
  /** `why` says what holds it up, after the first try. */
  | { name: 'queued'; why?: string }
  | { name: 'handed-over'; why?: string }
  | { name: 'delivered' }
  | { name: 'opened' }
  | { name: 'failed'; why: string }
  | { name: 'withdrawn' };

export type DeliveryEvent =
  | { type: 'heldUp'; why: string }
  | { type: 'handedOver' }
  | { type: 'arrived' }
  /** A person pressed Continue. Programs that follow links in mails press nothing. */
  | { type: 'opened' }
  | { type: 'failed'; why: string }
  | { type: 'withdrawn' };

const opened = () => ({ name: 'opened' }) as const;
const withdrawn = () => ({ name: 'withdrawn' }) as const;
const failed = (_: Delivery, e: { why: string }) => ({ name: 'failed', why: e.why }) as const;

/**
 * Reports come late and in any order, so an absent cell means: this says nothing new. What a person did beats what a
 * gateway says, and what was withdrawn stays withdrawn.
 */
export const evolveDelivery = transitionBy<Delivery, DeliveryEvent>({
  ready: { opened, withdrawn },
  queued: {
    heldUp: (_, e) => ({ name: 'queued', why: e.why }),
    handedOver: () => ({ name: 'handed-over' }),
    arrived: () => ({ name: 'delivered' }),
    opened,
    failed,
    withdrawn,
  },
  'handed-over': {
    heldUp: (_, e) => ({ name: 'handed-over', why: e.why }),
    arrived: () => ({ name: 'delivered' }),
    opened,
    failed,
    withdrawn,
  },
  delivered: { opened, withdrawn },
  opened: { withdrawn },
  failed: { arrived: () => ({ name: 'delivered' }), opened, withdrawn },
  withdrawn: {},
});

export interface InvitationUse {
  readonly delivery: Delivery['name'];
  readonly expiresAtMs: number;
  readonly uses: number;
  /** Missing: until the session closes. */
  readonly usesAllowed: number | undefined;
}

/** One press on Continue. The link of a session that is over is the session's to refuse. */
export function decideUseInvitation(invitation: InvitationUse, nowMs: number): Decision<DeliveryEvent> {
  if (invitation.delivery === 'withdrawn') return refuse('INVITATION_WITHDRAWN');
  if (nowMs >= invitation.expiresAtMs) return refuse('INVITATION_EXPIRED');
  if (invitation.usesAllowed !== undefined && invitation.uses >= invitation.usesAllowed)
    return refuse('INVITATION_USED_UP');
  return [{ type: 'opened' }];
}

export const MIN_LIFETIME_MINUTES = 5;
export const MAX_LIFETIME_MINUTES = 14 * 24 * 60;
export const MAX_USES = 100;
/** So many invitations a session may have; more is a mistake of a program. */
export const MAX_INVITATIONS = 40;

/** A mail that nobody opened for so long is worth another way: mails that never come cost the first ten minutes. */
export const UNOPENED_TOO_LONG_MS = 90_000;

/** What can be tried next, best first: what the desk has, what is known of the customer, what was not tried in vain. */
export function nextWays(known: {
  readonly hasMail: boolean;
  readonly hasTexts: boolean;
  readonly hasTicket: boolean;
  readonly tried: readonly InvitationWay[];
}): InvitationWay[] {
  const possible: InvitationWay[] = [
    ...(known.hasTexts ? (['text-message'] as const) : []),
    ...(known.hasMail ? (['mail'] as const) : []),
    ...(known.hasTicket ? (['ticket-comment'] as const) : []),
    'link',
    'qr',
    'calendar',
    'join-file',
  ];
  return possible.filter((way) => !known.tried.includes(way));
}
