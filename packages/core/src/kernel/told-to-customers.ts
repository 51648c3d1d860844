import type { LedgerWords } from '@porch/words/ledger/shape';
import type { Telling } from '../ability/ability-shape.ts';
import { customersAct } from '../abilities/index.ts';
import type { KernelEvent, KernelEventOf } from './events.ts';
import { isNotedFact } from '../ability/noted-facts.ts';
import { leadOf, type KernelState } from './state.ts';

/** What a teller of the kernel needs: who is who, and the whole book, for what permissions are called. */
interface Help extends Telling<LedgerWords['kernel']['customer']> {
  readonly book: LedgerWords;
}
type Teller = { readonly [T in KernelEvent['type']]: (e: KernelEventOf<T>, help: Help, s: KernelState) => string };

const tellers: Teller = {
  sessionPrepared: (e, { words }) => {
    const who = e.personal?.technicianName ?? '…';
    return e.ticketRef ? words.preparedTicket({ who, ticket: e.ticketRef }) : words.prepared({ who });
  },
  customerExpected: (_e, { words }) => words.expected,
  programStarted: (e, { words, isCustomers, technician }) =>
    isCustomers(e.participantId) ? words.youStartedAgain : words.startedAgain({ who: technician(e.participantId) }),
  changeOverWanted: (_e, { words }) => words.otherComputer,
  changeOverAnswered: (e, { words, technician }) =>
    words[e.isYes ? 'changedOver' : 'notChangedOver']({ who: technician(e.by) }),
  ticketAttached: (e, { words }) => words.ticket({ ticket: e.ticketRef }),
  codeIssued: (_e, { words }) => words.codeIssued,
  codeWithdrawn: (_e, { words }) => words.codeWithdrawn,
  invitationIssued: (_e, { words }) => words.invitationIssued,
  invitationFailed: (_e, { words }) => words.invitationFailed,
  invitationWithdrawn: (_e, { words }) => words.invitationWithdrawn,
  screenLost: (_e, { words }) => words.screenLost,
  handoverAccepted: (_e, { words }) => words.handoverAccepted,
  participantJoined: (e, { words }) => {
    if (e.role === 'technician') return words.came({ who: e.personal?.name ?? '…' });
    return e.role === 'doorstep' ? words.youCameDoorstep : words.youCamePage;
  },
  'planned/chosen': (e, { words, technician }) => words.planned({ who: technician(e.by) }),
  'possible/changed': (_e, { words }) => words.possibleChanged,
  'beside/letIn': (e, { words, technician }) => words.letIn({ who: technician(e.by), name: e.personal?.name ?? '…' }),
  'beside/sentAway': (e, { words, technician }) => words.sentAway({ who: technician(e.by) }),
  participantLeft: (e, { words, isCustomers, technician }, s) => {
    if (!isCustomers(e.participantId)) return words.left({ who: technician(e.participantId) });
    return s.participants[e.participantId]?.part === 'doorstep' ? words.youLeftDoorstep : words.youLeftPage;
  },
  customerIntroduced: (e, { words }) => words.introduced({ name: e.personal?.name ?? '…' }),
  callAnswered: (e, { words }) => (e.answer === 'i-called' ? words.iCalled : words.theyCalled),
  ownPictureOffered: (_e, { words }) => words.ownPicture,
  customerAccepted: (e, { words }) => words.accepted({ version: e.noticeVersion }),
  aimChosen: (e, { words, technician }) =>
    e.aim === 'look' ? words.aimLook : words.aimWork({ who: technician(e.by) }),
  visitBegan: (e, { words, technician }) => words.visit({ who: technician(e.participantId) }),
  permissionsAsked: (e, { words, book, speech, technician }) =>
    words.asked({
      who: technician(e.participantId),
      what: speech.list(e.permissions.map((permission) => customersAct(permission, book))),
    }),
  askClosed: (e, { words }) =>
    words[({ refused: 'askRefused', lapsed: 'askLapsed', 'taken-back': 'askTakenBack' } as const)[e.how]],
  permissionGranted: (e, { words, book, technician }) =>
    words[e.isReturn ? 'grantedReturn' : e.isStanding ? 'grantedStanding' : 'granted']({
      who: technician(e.participantId),
      what: customersAct(e.permission, book),
    }),
  permissionWithdrawn: (e, { words, book, technician, isCustomers }) =>
    words[isCustomers(e.by) ? 'youTookBack' : 'gaveBack']({
      who: technician(e.participantId),
      what: customersAct(e.permission, book),
    }),
  chatSent: (e, { words, technician, isCustomers }) => {
    const text = e.personal?.text ?? '…';
    return isCustomers(e.by) ? words.youSaid({ text }) : words.said({ who: technician(e.by), text });
  },
  handoverRequested: (e, { words, technician }) =>
    words.handoverAsked({ who: technician(e.by), to: e.personal?.toName ?? '…' }),
  handoverClosed: (e, { words, technician }, s) => words.handoverClosed({ who: technician(leadOf(s)?.id ?? e.by) }),
  handedOver: (e, { words, technician }) =>
    words.handedOver({ to: technician(e.toParticipantId), from: technician(e.fromParticipantId) }),
  tryItAsked: (e, { words, technician }) => words.tryAsked({ who: technician(e.by) }),
  tryItAnswered: (e, { words }) =>
    words[({ works: 'tryWorks', 'does-not': 'tryDoesNot', 'cannot-tell': 'tryCannotTell' } as const)[e.answer]],
  sessionEnded: (e, { words, technician, isCustomers }) => {
    if (e.reason === 'fraud') return words.fraud;
    if (e.reason === 'stop') return words.youStopped;
    if (e.reason === 'nobody') return words.endedByItself;
    return isCustomers(e.by) ? words.youEnded : words.ended({ who: technician(e.by) });
  },
  outcomeLogged: (e, { words, technician }) => words.logged({ who: technician(e.by) }),
  factNoted: (e, { words, book }) => words.noted({ text: isNotedFact(e.what) ? book.kernel.facts[e.what] : '…' }),
  notUnderstood: (_e, { words }) => words.notUnderstood,
  personErased: (e, { words }) => words.erased({ count: e.seqs.length }),
};

/** The sentence that an event of the kernel is for the customer. */
export function tellKernelToCustomer(
  event: KernelEvent,
  telling: Omit<Telling, 'words'>,
  stateBefore: KernelState,
  book: LedgerWords,
): string {
  const help: Help = { ...telling, words: book.kernel.customer, book };
  return (tellers[event.type] as (e: KernelEvent, help: Help, s: KernelState) => string)(event, help, stateBefore);
}
