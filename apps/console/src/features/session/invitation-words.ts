import { nextWays, UNOPENED_TOO_LONG_MS, type InvitationWay, type SessionState } from '@porch/core';
import type { InvitationView, PorchView } from '@porch/wire';

export const wayNames: Readonly<Record<InvitationWay, string>> = {
  link: 'Link',
  'ticket-comment': 'Comment in the ticket',
  mail: 'Mail',
  'text-message': 'Text message',
  qr: 'QR picture',
  calendar: 'Calendar entry',
  'join-file': 'Join file',
};

const marks: Readonly<Record<InvitationView['delivery'], string>> = {
  ready: '○',
  queued: '◔',
  'handed-over': '◑',
  delivered: '◕',
  opened: '●',
  failed: '✕',
  withdrawn: '–',
};
const words: Readonly<Record<InvitationView['delivery'], string>> = {
  ready: 'not opened yet',
  queued: 'on its way out',
  'handed-over': 'handed over, not confirmed yet',
  delivered: 'delivered, not opened yet',
  opened: 'opened',
  failed: 'did not arrive',
  withdrawn: 'withdrawn',
};

/** Where an invitation is, by shape and word. */
export function deliveryInWords(invitation: InvitationView): { mark: string; words: string } {
  const uses = invitation.uses > 1 ? `, ${invitation.uses} times` : '';
  const why = invitation.why ? `: ${invitation.why}` : '';
  return { mark: marks[invitation.delivery], words: `${words[invitation.delivery]}${uses}${why}` };
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
