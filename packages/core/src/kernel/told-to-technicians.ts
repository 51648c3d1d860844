import type { InvitationWay } from '../invitation/invitation.ts';
import { rulesOf, type Permission } from '../permission/permission.ts';
import type { KernelEvent, KernelEventOf } from './events.ts';
import { personName, type KernelState } from './state.ts';

const label = (permission: Permission) => rulesOf(permission).label.toLowerCase();
const permissionList = (permissions: readonly Permission[]) => permissions.map(label).join(', ');

const outcomeWords: Record<KernelEventOf<'outcomeLogged'>['outcome'], string> = {
  resolved: 'resolved',
  'worked-around': 'worked around',
  escalated: 'escalated',
  'follow-up': 'follow-up needed',
  'not-resolved': 'not resolved',
  'customer-left': 'customer left',
  'suspected-fraud': 'suspected fraud',
};
/** How somebody came by their way in. */
const wayWords: Readonly<Record<string, string>> = {
  code: 'by the code',
  link: 'by a link',
  'ticket-link': 'by the link in the ticket',
  'page-link': 'from their page',
  download: 'downloaded from their page',
  device: 'at the device that was visited',
  'mail-link': 'by the link in a mail',
  'text-link': 'by the link in a text message',
  'qr-link': 'by a QR picture',
  'calendar-link': 'by a calendar entry',
  'file-link': 'by a join file',
  queue: 'from the queue',
};
const identityWords = {
  'said-so-themselves': 'as they say themselves',
  'confirmed-by-ticket': 'confirmed by the ticket',
  'confirmed-by-directory': 'confirmed by the directory',
};
const issuedWords: Record<InvitationWay, string> = {
  link: 'made',
  'ticket-comment': 'posted into the ticket',
  mail: 'sent by mail',
  'text-message': 'sent as a text message',
  qr: 'made as a QR picture',
  calendar: 'made as a calendar entry',
  'join-file': 'made as a file',
};
const tryWords = { works: 'it works', 'does-not': 'it does not work', 'cannot-tell': 'cannot tell yet' };
const askWords = { refused: 'said no', lapsed: 'did not answer in time', 'taken-back': 'was not asked any longer' };
const handoverWords = {
  declined: 'was declined',
  lapsed: 'was not answered in time and went back',
  'taken-back': 'was withdrawn',
  'customer-said-no': 'went back, since the customer said no',
};
const ended = {
  technician: 'ended the session',
  customer: 'ended the session',
  stop: 'pressed Stop',
  fraud: 'said that this felt wrong, and the session stopped',
  nobody: 'ended the session, since no technician had been in it for long',
};

type Teller = { readonly [T in KernelEvent['type']]: (e: KernelEventOf<T>, s: KernelState) => string };

const tellers: Teller = {
  sessionPrepared: (e, s) =>
    [
      `${e.personal?.technicianName ?? personName(s, e.by)} prepared this session${e.ticketRef ? ` from ticket ${e.ticketRef}` : ''}`,
      ...(e.personal?.saidBefore ?? []).map((said) => `${said.name} while waiting: ${said.text}`),
    ].join('\n'),
  customerExpected: (e) =>
    [
      `It is for ${e.personal?.customerName ?? 'somebody whose name is not known yet'}`,
      ...(e.personal?.saidBefore ?? []).map((said) => `${said.name} while waiting: ${said.text}`),
    ].join('\n'),
  programStarted: (e, s) => `${personName(s, e.participantId)} came back with a program that started again`,
  changeOverWanted: () => 'Another Doorstep wants to take the place of the one that is there',
  changeOverAnswered: (e, s) =>
    e.isYes
      ? `${personName(s, e.by)} let the other Doorstep take over; what was allowed is over`
      : `${personName(s, e.by)} sent the other Doorstep away`,
  ticketAttached: (e) => `Ticket ${e.ticketRef} belongs to this session`,
  codeIssued: () => 'A one-time code was made',
  codeWithdrawn: () => 'The one-time code was withdrawn',
  invitationIssued: (e) => `A join link was ${issuedWords[e.way]}`,
  invitationFailed: (e) => `The join link ${issuedWords[e.way]} did not arrive: ${e.personal?.why ?? '(erased)'}`,
  invitationWithdrawn: (e) => `The join link ${issuedWords[e.way]} was withdrawn`,
  participantJoined: (e, s) => {
    if (e.role === 'technician') return `${e.personal?.name ?? 'A technician'} came in`;
    const where =
      e.role === 'doorstep' ? `Doorstep${e.personal?.computer ? ` on ${e.personal.computer}` : ''}` : 'the page';
    return `${s.customerName ?? 'The customer'} came in with ${where}, ${wayWords[e.way] ?? e.way}`;
  },
  'possible/changed': (e, s) => {
    const before = s.participants[e.by]?.can ?? [];
    const names = (these: readonly string[]) => permissionList(these as Permission[]);
    const [gained, lost] = [e.can.filter((p) => !before.includes(p)), before.filter((p) => !e.can.includes(p))];
    const said = [
      ...(lost.length ? [`no longer: ${names(lost)}`] : []),
      ...(gained.length ? [`now: ${names(gained)}`] : []),
    ];
    return `What can be done at ${personName(s, e.by)}’s computer changed${said.length ? `; ${said.join('; ')}` : ''}`;
  },
  'beside/letIn': (e, s) => `${personName(s, e.by)} let ${e.personal?.name ?? 'a colleague'} come in as ${e.part}`,
  'beside/sentAway': (e, s) => `${personName(s, e.by)} sent a colleague away`,
  participantLeft: (e, s) => `${personName(s, e.participantId)} left: ${e.reason}`,
  customerIntroduced: (e) => `The customer is ${e.personal?.name ?? '(erased)'}, ${identityWords[e.identity]}`,
  aimChosen: (e) => (e.aim === 'look' ? 'Meant for looking, from the browser' : 'Meant for working, with Doorstep'),
  callAnswered: (e, s) =>
    e.answer === 'i-called'
      ? `${personName(s, e.by)} called us themselves`
      : `${personName(s, e.by)} was called by somebody`,
  ownPictureOffered: (e, s) => `${personName(s, e.by)} can show something from their browser`,
  customerAccepted: (e, s) => `${personName(s, e.by)} accepted the session (privacy notice ${e.noticeVersion})`,
  permissionsAsked: (e, s) => `${personName(s, e.participantId)} asked to be allowed: ${permissionList(e.permissions)}`,
  askClosed: (e, s) => {
    const what = s.asks[e.askId];
    const list = what ? `: ${permissionList(what.permissions)}` : '';
    return e.how === 'taken-back'
      ? `An ask was withdrawn${list}`
      : `${s.customerName ?? 'The customer'} ${askWords[e.how]}${list}`;
  },
  visitBegan: (e, s) =>
    `A remote visit of ${personName(s, e.participantId)} began under the standing consent${e.wasAsked ? ', with a yes at the device' : ''}`,
  permissionGranted: (e, s) =>
    e.isStanding
      ? `The standing consent lets ${personName(s, e.participantId)} ${label(e.permission)}`
      : `${personName(s, e.by)} allowed ${personName(s, e.participantId)} to ${label(e.permission)}`,
  permissionWithdrawn: (e, s) =>
    `${personName(s, e.by)} ${e.by === e.participantId ? 'gave back' : 'took back'}: ${label(e.permission)} (${e.why})`,
  screenLost: (e) => `The screen is gone: ${e.why}`,
  chatSent: (e, s) => `${personName(s, e.by)}: ${e.personal?.text ?? '(erased)'}`,
  handoverRequested: (e, s) => `${personName(s, e.by)} asked ${e.personal?.toName ?? 'a colleague'} to take over`,
  handoverAccepted: () => 'The colleague accepted the handover',
  handoverClosed: (e) => `The handover ${handoverWords[e.how]}`,
  handedOver: (e, s) => `${personName(s, e.toParticipantId)} took over from ${personName(s, e.fromParticipantId)}`,
  tryItAsked: (e, s) => `${personName(s, e.by)} asked: please try it`,
  tryItAnswered: (e, s) => `${personName(s, e.by)} tried: ${tryWords[e.answer]}`,
  sessionEnded: (e, s) => `${personName(s, e.by)} ${ended[e.reason]}`,
  outcomeLogged: (e, s) => `${personName(s, e.by)} logged the outcome: ${outcomeWords[e.outcome]}, ${e.minutes} min`,
  factNoted: (e, s) => `${personName(s, e.by)}: ${e.what}`,
  personErased: (e) => `Personal parts of ${e.seqs.length} entries were erased (${e.rule})`,
  notUnderstood: (e) => `Something that a newer program knows and this one does not: ${e.what}`,
};

/** One sentence for technicians of an event of the kernel, with what was true before it. */
export function tellKernelToTechnicians(event: KernelEvent, stateBefore: KernelState): string {
  return (tellers[event.type] as (e: KernelEvent, s: KernelState) => string)(event, stateBefore);
}
