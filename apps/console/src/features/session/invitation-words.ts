import { nextWays, UNOPENED_TOO_LONG_MS, type InvitationWay, type SessionState } from '@porch/core';
import type { InvitationView, PorchView } from '@porch/wire';
import { reasonInWords, w } from '../../words/index.ts';

/** Where an invitation is, at a glance. */
export const deliveryMarks: Readonly<Record<InvitationView['delivery'], string>> = {
  ready: '○',
  queued: '◔',
  'handed-over': '◑',
  delivered: '◕',
  opened: '●',
  failed: '✕',
  withdrawn: '–',
};
/** Where an invitation is. */
export function deliveryInWords({ delivery, uses, why }: InvitationView): string {
  const { inviting } = w.value;
  const so = inviting.delivery[delivery];
  const often = uses > 1 ? inviting.deliveryTimes({ delivery: so, count: uses }) : so;
  return why ? inviting.deliveryWhy({ delivery: often, why: reasonInWords(why) }) : often;
}

/** Whether waiting for this one longer is worth less than trying another way. */
export const isInVain = (invitation: InvitationView, nowMs: number): boolean =>
  invitation.delivery === 'failed' ||
  ((invitation.delivery === 'queued' ||
    invitation.delivery === 'handed-over' ||
    (invitation.delivery === 'delivered' && invitation.way !== 'ticket-comment')) &&
    nowMs - invitation.issuedAtMs > UNOPENED_TOO_LONG_MS);

/** The next way to try for this customer, or none when every way was tried. */
export const nextWay = (
  invitations: readonly InvitationView[],
  ways: PorchView['ways'],
  state: Pick<SessionState, 'ticketRef'>,
): InvitationWay | undefined =>
  nextWays({
    ...ways,
    hasTicket: state.ticketRef !== undefined,
    tried: invitations.map((i) => i.way).filter((way) => way !== 'link'),
  })[0];
