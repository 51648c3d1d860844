import type { Telling, Told } from '../ability/ability-shape.ts';
import { customerPermissionWords } from '../abilities/index.ts';
import { listOf, type Language } from '../language.ts';
import type { Permission } from '../permission/permission.ts';
import type { KernelEvent } from './events.ts';
import { isNotedFact, notedFacts } from './noted-facts.ts';
import { leadOf, type KernelState } from './state.ts';
import { german } from './words/de.ts';
import { english } from './words/en.ts';
import { norwegian } from './words/no.ts';

export type KernelSentence = keyof typeof english;
export const kernelSentences: Readonly<Record<Language, Readonly<Record<KernelSentence, string>>>> = {
  en: english,
  no: norwegian,
  de: german,
};

/** Which sentence an event is for the customer, and what goes into it. */
export function tellKernelToCustomer(
  e: KernelEvent,
  s: KernelState,
  { technician, isCustomers: isMine, language }: Telling,
): Told<KernelSentence> {
  const what = (permission: Permission) => customerPermissionWords[language][permission];
  switch (e.type) {
    case 'sessionPrepared': {
      const who = e.personal?.technicianName ?? '…';
      return e.ticketRef ? ['preparedTicket', { who, ticket: e.ticketRef }] : ['prepared', { who }];
    }
    case 'customerExpected':
      return ['expected'];
    case 'programStarted':
      return isMine(e.participantId) ? ['youStartedAgain'] : ['startedAgain', { who: technician(e.participantId) }];
    case 'changeOverWanted':
      return ['otherComputer'];
    case 'changeOverAnswered':
      return [e.isYes ? 'changedOver' : 'notChangedOver', { who: technician(e.by) }];
    case 'ticketAttached':
      return ['ticket', { ticket: e.ticketRef }];
    case 'codeIssued':
    case 'codeWithdrawn':
    case 'invitationIssued':
    case 'invitationFailed':
    case 'invitationWithdrawn':
    case 'screenLost':
    case 'handoverAccepted':
      return [e.type];
    case 'participantJoined':
      if (e.role === 'technician') return ['came', { who: e.personal?.name ?? '…' }];
      return [e.role === 'doorstep' ? 'youCameDoorstep' : 'youCamePage'];
    case 'possible/changed':
      return ['possibleChanged'];
    case 'beside/letIn':
      return ['letIn', { who: technician(e.by), name: e.personal?.name ?? '…' }];
    case 'beside/sentAway':
      return ['sentAway', { who: technician(e.by) }];
    case 'participantLeft':
      if (!isMine(e.participantId)) return ['left', { who: technician(e.participantId) }];
      return [s.participants[e.participantId]?.part === 'doorstep' ? 'youLeftDoorstep' : 'youLeftPage'];
    case 'customerIntroduced':
      return ['introduced', { name: e.personal?.name ?? '…' }];
    case 'callAnswered':
      return [e.answer === 'i-called' ? 'iCalled' : 'theyCalled'];
    case 'ownPictureOffered':
      return ['ownPicture'];
    case 'customerAccepted':
      return ['accepted', { version: e.noticeVersion }];
    case 'aimChosen':
      return e.aim === 'look' ? ['aimLook'] : ['aimWork', { who: technician(e.by) }];
    case 'visitBegan':
      return ['visit', { who: technician(e.participantId) }];
    case 'permissionsAsked':
      return ['asked', { who: technician(e.participantId), what: listOf(e.permissions.map(what), language) }];
    case 'askClosed':
      return [({ refused: 'askRefused', lapsed: 'askLapsed', 'taken-back': 'askTakenBack' } as const)[e.how]];
    case 'permissionGranted':
      return [
        e.isStanding ? 'grantedStanding' : 'granted',
        { who: technician(e.participantId), what: what(e.permission) },
      ];
    case 'permissionWithdrawn':
      return [
        isMine(e.by) ? 'youTookBack' : 'gaveBack',
        { who: technician(e.participantId), what: what(e.permission) },
      ];
    case 'chatSent':
      return [isMine(e.by) ? 'youSaid' : 'said', { who: technician(e.by), text: e.personal?.text ?? '…' }];
    case 'handoverRequested':
      return ['handoverAsked', { who: technician(e.by), to: e.personal?.toName ?? '…' }];
    case 'handoverClosed':
      return ['handoverClosed', { who: technician(leadOf(s)?.id ?? e.by) }];
    case 'handedOver':
      return ['handedOver', { to: technician(e.toParticipantId), from: technician(e.fromParticipantId) }];
    case 'tryItAsked':
      return ['tryAsked', { who: technician(e.by) }];
    case 'tryItAnswered':
      return [({ works: 'tryWorks', 'does-not': 'tryDoesNot', 'cannot-tell': 'tryCannotTell' } as const)[e.answer]];
    case 'sessionEnded':
      if (e.reason === 'fraud') return ['fraud'];
      if (e.reason === 'stop') return ['youStopped'];
      if (e.reason === 'nobody') return ['endedByItself'];
      return isMine(e.by) ? ['youEnded'] : ['ended', { who: technician(e.by) }];
    case 'outcomeLogged':
      return ['logged', { who: technician(e.by) }];
    case 'factNoted':
      return ['noted', { text: isNotedFact(e.what) ? notedFacts[e.what][language] : '…' }];
    case 'notUnderstood':
      return ['notUnderstood'];
    case 'personErased':
      return ['erased', { count: e.seqs.length }];
  }
}
