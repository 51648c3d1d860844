import type { LedgerWords } from '@porch/words/ledger/shape';
import type { Telling } from '../ability/ability-shape.ts';
import { techniciansAct } from '../abilities/index.ts';
import type { Permission } from '../permission/permission.ts';
import type { KernelEvent, KernelEventOf } from './events.ts';
import { isNotedFact } from '../ability/noted-facts.ts';
import type { KernelState } from './state.ts';

/** What a teller of the kernel needs: who is who, and the whole book, for what permissions are called. */
interface Help extends Telling<LedgerWords['kernel']['technician']> {
  readonly book: LedgerWords;
  acts(permissions: readonly string[]): string;
}
type Teller = { readonly [T in KernelEvent['type']]: (e: KernelEventOf<T>, help: Help, s: KernelState) => string };

const saidBefore = (said: readonly { readonly name: string; readonly text: string }[] | undefined, { words }: Help) =>
  (said ?? []).map(({ name, text }) => words.saidBefore({ name, text }));

function tellJoined(e: KernelEventOf<'participantJoined'>, { words, book }: Help, s: KernelState): string {
  const { people, ways } = book.kernel;
  if (e.role === 'technician') return words.came({ who: e.personal?.name ?? people.aTechnician });
  const who = s.customerName ?? people.customer;
  const way = Object.hasOwn(ways, e.way) ? ways[e.way as 'code'] : ways.unknown({ way: e.way });
  if (e.role !== 'doorstep') return words.camePage({ who, way });
  const computer = e.personal?.computer;
  return computer ? words.cameDoorstepOn({ who, way, computer }) : words.cameDoorstep({ who, way });
}

function tellPossible(e: KernelEventOf<'possible/changed'>, help: Help, s: KernelState): string {
  const before = s.participants[e.by]?.can ?? [];
  const who = help.nameOf(e.by);
  const [gained, lost] = [
    help.acts(e.can.filter((p) => !before.includes(p))),
    help.acts(before.filter((p) => !e.can.includes(p))),
  ];
  if (gained && lost) return help.words.possibleBoth({ who, gained, lost });
  if (gained) return help.words.possibleGained({ who, gained });
  return lost ? help.words.possibleLost({ who, lost }) : help.words.possibleChanged({ who });
}

function tellAskClosed(e: KernelEventOf<'askClosed'>, { words, book, acts }: Help, s: KernelState): string {
  const what = acts(s.asks[e.askId]?.permissions ?? []);
  const who = s.customerName ?? book.kernel.people.customer;
  if (e.how === 'taken-back') return what ? words.askTakenBackWhat({ what }) : words.askTakenBack;
  if (e.how === 'refused') return what ? words.askRefusedWhat({ who, what }) : words.askRefused({ who });
  return what ? words.askLapsedWhat({ who, what }) : words.askLapsed({ who });
}

const tellers: Teller = {
  sessionPrepared: (e, help) => {
    const { words, nameOf } = help;
    const who = e.personal?.technicianName ?? nameOf(e.by);
    const prepared = e.ticketRef ? words.preparedTicket({ who, ticket: e.ticketRef }) : words.prepared({ who });
    return [prepared, ...saidBefore(e.personal?.saidBefore, help)].join('\n');
  },
  customerExpected: (e, help) => {
    const name = e.personal?.customerName;
    const expected = name ? help.words.expected({ name }) : help.words.expectedUnknown;
    return [expected, ...saidBefore(e.personal?.saidBefore, help)].join('\n');
  },
  programStarted: (e, { words, nameOf }) => words.programStarted({ who: nameOf(e.participantId) }),
  changeOverWanted: (_e, { words }) => words.changeOverWanted,
  changeOverAnswered: (e, { words, nameOf }) =>
    words[e.isYes ? 'changedOver' : 'notChangedOver']({ who: nameOf(e.by) }),
  ticketAttached: (e, { words }) => words.ticketAttached({ ticket: e.ticketRef }),
  codeIssued: (_e, { words }) => words.codeIssued,
  codeWithdrawn: (_e, { words }) => words.codeWithdrawn,
  invitationIssued: (e, { words }) => words.invitationIssued[e.way],
  invitationFailed: (e, { words, book }) =>
    words.invitationFailed[e.way]({ why: e.personal?.why ?? book.kernel.erased }),
  invitationWithdrawn: (e, { words }) => words.invitationWithdrawn[e.way],
  participantJoined: tellJoined,
  'planned/chosen': (e, { words, nameOf, acts }) =>
    e.permissions.length
      ? words.planned({ who: nameOf(e.by), what: acts(e.permissions as Permission[]) })
      : words.plannedNothing({ who: nameOf(e.by) }),
  'possible/changed': tellPossible,
  'beside/letIn': (e, { words, nameOf, book }) => {
    const about = { who: nameOf(e.by), name: e.personal?.name ?? book.kernel.people.colleague };
    return Object.hasOwn(words.letIn, e.part)
      ? words.letIn[e.part as 'coach'](about)
      : words.letInUnknown({ ...about, part: e.part });
  },
  'beside/sentAway': (e, { words, nameOf }) => words.sentAway({ who: nameOf(e.by) }),
  participantLeft: (e, { words, nameOf, reason }) =>
    words.left({ who: nameOf(e.participantId), why: reason(e.reason) }),
  customerIntroduced: (e, { words, book }) =>
    words.introduced[e.identity]({ name: e.personal?.name ?? book.kernel.erased }),
  aimChosen: (e, { words }) => (e.aim === 'look' ? words.aimLook : words.aimWork),
  callAnswered: (e, { words, nameOf }) =>
    words[e.answer === 'i-called' ? 'iCalled' : 'theyCalled']({ who: nameOf(e.by) }),
  ownPictureOffered: (e, { words, nameOf }) => words.ownPicture({ who: nameOf(e.by) }),
  customerAccepted: (e, { words, nameOf }) => words.accepted({ who: nameOf(e.by), version: e.noticeVersion }),
  permissionsAsked: (e, { words, nameOf, acts }) =>
    words.asked({ who: nameOf(e.participantId), what: acts(e.permissions) }),
  askClosed: tellAskClosed,
  visitBegan: (e, { words, nameOf }) => words[e.wasAsked ? 'visitAsked' : 'visit']({ who: nameOf(e.participantId) }),
  permissionGranted: (e, { words, nameOf, acts }) => {
    const about = { who: nameOf(e.participantId), what: acts([e.permission]) };
    if (e.isReturn) return words.grantedReturn(about);
    return e.isStanding ? words.grantedStanding(about) : words.granted({ by: nameOf(e.by), ...about });
  },
  permissionWithdrawn: (e, { words, nameOf, acts, reason }) =>
    words[e.by === e.participantId ? 'gaveBack' : 'tookBack']({
      by: nameOf(e.by),
      what: acts([e.permission]),
      why: reason(e.why),
    }),
  screenLost: (e, { words, reason }) => words.screenLost({ why: reason(e.why) }),
  chatSent: (e, { words, nameOf, book }) =>
    words.said({ who: nameOf(e.by), text: e.personal?.text ?? book.kernel.erased }),
  handoverRequested: (e, { words, nameOf, book }) =>
    words.handoverRequested({ who: nameOf(e.by), to: e.personal?.toName ?? book.kernel.people.colleague }),
  handoverAccepted: (_e, { words }) => words.handoverAccepted,
  handoverClosed: (e, { words }) => words.handoverClosed[e.how],
  handedOver: (e, { words, nameOf }) =>
    words.handedOver({ to: nameOf(e.toParticipantId), from: nameOf(e.fromParticipantId) }),
  tryItAsked: (e, { words, nameOf }) => words.tryAsked({ who: nameOf(e.by) }),
  tryItAnswered: (e, { words, nameOf }) => words.tryAnswered[e.answer]({ who: nameOf(e.by) }),
  sessionEnded: (e, { words, nameOf }) => words.ended({ who: nameOf(e.by), reason: e.reason }),
  outcomeLogged: (e, { words, nameOf }) => words.outcome[e.outcome]({ who: nameOf(e.by), minutes: e.minutes }),
  factNoted: (e, { words, nameOf, book }) =>
    words.noted({ who: nameOf(e.by), text: isNotedFact(e.what) ? book.kernel.facts[e.what] : e.what }),
  personErased: (e, { words }) => words.erased({ count: e.seqs.length, rule: e.rule }),
  notUnderstood: (e, { words }) => words.notUnderstood({ what: e.what }),
};

/** One sentence for technicians of an event of the kernel, with what was true before it. */
export function tellKernelToTechnicians(
  event: KernelEvent,
  telling: Omit<Telling, 'words'>,
  stateBefore: KernelState,
  book: LedgerWords,
): string {
  const acts = (permissions: readonly string[]) =>
    // Something that only a newer program can do is called what that program calls it.
    telling.speech.list(permissions.map((name) => techniciansAct(name as Permission, book)));
  const help: Help = { ...telling, words: book.kernel.technician, book, acts };
  return (tellers[event.type] as (e: KernelEvent, help: Help, s: KernelState) => string)(event, help, stateBefore);
}
