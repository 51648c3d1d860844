import {
  customerPermissionWords,
  hasWhatItNeeds,
  listOf,
  purposeForCustomer,
  type Language,
  type OpenAsk,
  type Permission,
  type SessionState,
} from '@porch/core';
import type { Asked } from '../kit.ts';
import type { Question } from '../ports/question.ts';
import { hostWords, type HostWords } from '../words.ts';

/* What is asked before anything may be done, in the customer's language. */

export const firstName = (name: string) => name.split(' ')[0] ?? name;
export const hints = (w: HostWords) => ({ readFirst: w.readFirst, onlyYou: w.onlyYou });

const clockOf = (atMs: number, language: Language) =>
  new Intl.DateTimeFormat(language, { hour: '2-digit', minute: '2-digit' }).format(atMs);

/** Which service this program talks to, and which one its publisher made it for, as hosts. */
export interface ServicePlace {
  readonly address: string;
  readonly madeFor?: string | undefined;
}
const isElsewhere = ({ address, madeFor }: ServicePlace) => madeFor !== undefined && madeFor !== address;
/** Nobody who asks can choose this line, and a program that was led elsewhere says so. */
const placeWords = (place: ServicePlace, w: HostWords): string =>
  isElsewhere(place) ? w.notMadeFor(place.madeFor ?? '', place.address) : w.talksTo(place.address);

/** What a question for an ask is made of, beside the session. */
export interface AskedHere {
  readonly deskName: string;
  readonly nowMs: number;
  readonly place?: ServicePlace;
  readonly more?: string | undefined;
  warn(asked: Asked): string | undefined;
}

export function questionForAsk(state: SessionState, ask: OpenAsk, here: AskedHere): Question {
  const { deskName, place, more } = here;
  const w = hostWords[state.language];
  const name = state.participants[ask.participantId]?.name ?? w.technician;
  const wordsOf = (permission: Permission) => customerPermissionWords[state.language][permission];
  const wants = listOf(ask.permissions.map(wordsOf), state.language);
  const { handover } = state;
  const isTakingOver = state.participants[ask.participantId]?.technicianId === handover?.toTechnicianId;
  const previous = handover && isTakingOver ? state.participants[handover.fromParticipantId]?.name : undefined;
  const purpose = purposeForCustomer(state, state.language);
  const why = state.ticketRef ? w.forTicket(state.ticketRef, purpose) : purpose;
  const clockAt = (inMs: number) => clockOf(here.nowMs + inMs, state.language);
  const warnings = ask.permissions.flatMap(
    (permission) => here.warn({ permission, firstName: firstName(name), words: w, clockAt }) ?? [],
  );
  return {
    title: previous ? w.takesOver(name, previous) : w.asks(name, deskName),
    lines: [
      w.may(firstName(name), wants),
      why,
      ...warnings,
      ...(place && isElsewhere(place) ? [placeWords(place, w)] : []),
      ...(ask.permissions.length > 1 ? [w.leaveOut] : []),
    ].filter(Boolean),
    yes: w.yes,
    no: w.no,
    ...hints(w),
    ...(ask.permissions.length > 1 ? { choices: ask.permissions.map((p) => ({ label: wordsOf(p), isOn: true })) } : {}),
    ...(more === undefined ? {} : { more }),
  };
}

/** Of what stayed ticked, what can stand: nothing without what it needs. */
export function chosenOf(
  ask: OpenAsk,
  ticked: readonly boolean[],
  has: (permission: Permission) => boolean,
): Permission[] {
  const chosen = ask.permissions.filter((_, i) => ticked[i] ?? true);
  return chosen.filter((permission) => hasWhatItNeeds(permission, (needed) => chosen.includes(needed) || has(needed)));
}

export function callQuestion(deskName: string, deskPhone: string, language: Language): Question {
  const w = hostWords[language];
  return {
    title: w.whoCalled,
    lines: [w.pretenders, w.stopHere(deskName, deskPhone)],
    yes: w.iCalled,
    no: w.theyCalled,
    ...hints(w),
  };
}

export function acceptQuestion(state: SessionState, deskName: string, place: ServicePlace): Question {
  const w = hostWords[state.language];
  const purpose = purposeForCustomer(state, state.language);
  return {
    title: w.wantsToHelp(state.technicianName ?? w.technician, deskName),
    lines: [state.ticketRef ? w.ticket(state.ticketRef, purpose) : purpose, w.nothingYet, placeWords(place, w)],
    yes: w.begin,
    no: w.doNotBegin,
    ...hints(w),
  };
}
