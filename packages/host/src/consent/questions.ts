import { speechOf } from '@porch/words';
import { host, type HostWords } from '@porch/words/host';
import { ledger } from '@porch/words/ledger';
import {
  customersAct,
  firstName,
  hasWhatItNeeds,
  purposeForCustomer,
  type Language,
  type OpenAsk,
  type Permission,
  type SessionState,
} from '@porch/core';
import type { Asked } from '../kit.ts';
import type { Question } from '../ports/question.ts';

/* What is asked before anything may be done, in the customer's language. */

export const hints = ({ readFirst, onlyYou }: HostWords['kernel']) => ({ readFirst, onlyYou });

/** Which service this program talks to, and which one its publisher made it for, as hosts. */
export interface ServicePlace {
  readonly address: string;
  readonly madeFor?: string | undefined;
}
const isElsewhere = ({ address, madeFor }: ServicePlace) => madeFor !== undefined && madeFor !== address;
/** Nobody who asks can choose this line, and a program that was led elsewhere says so. */
const placeWords = ({ address, madeFor = address }: ServicePlace, w: HostWords['kernel']): string =>
  madeFor === address ? w.talksTo({ address }) : w.notMadeFor({ madeFor, address });

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
  const { language } = state;
  const words = host[language];
  const w = words.kernel;
  const speech = speechOf(language);
  const name = state.participants[ask.participantId]?.name ?? w.technician;
  const wordsOf = (permission: Permission) => customersAct(permission, ledger[language]);
  const wants = speech.list(ask.permissions.map(wordsOf));
  const { handover } = state;
  const isTakingOver = state.participants[ask.participantId]?.technicianId === handover?.toTechnicianId;
  const previous = handover && isTakingOver ? state.participants[handover.fromParticipantId]?.name : undefined;
  const purpose = purposeForCustomer(state, ledger[language]);
  const why = state.ticketRef ? w.forTicket({ ref: state.ticketRef, purpose }) : purpose;
  const clockAt = (inMs: number) => speech.clock(here.nowMs + inMs);
  const warnings = ask.permissions.flatMap(
    (permission) => here.warn({ permission, firstName: firstName(name), words, clockAt }) ?? [],
  );
  return {
    title: previous ? w.takesOver({ name, from: previous }) : w.asks({ name, desk: deskName }),
    lines: [
      w.may({ first: firstName(name), what: wants }),
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
  const w = host[language].kernel;
  const stopHere = deskPhone ? w.stopHereCall({ desk: deskName, phone: deskPhone }) : w.stopHere;
  return {
    title: w.whoCalled,
    lines: [w.pretenders, stopHere],
    yes: w.iCalled,
    no: w.theyCalled,
    ...hints(w),
  };
}

export function acceptQuestion(state: SessionState, deskName: string, place: ServicePlace): Question {
  const w = host[state.language].kernel;
  const purpose = purposeForCustomer(state, ledger[state.language]);
  const about = state.ticketRef ? w.ticket({ ref: state.ticketRef, purpose }) : purpose;
  return {
    title: w.wantsToHelp({ name: state.technicianName ?? w.technician, desk: deskName }),
    lines: [about, w.nothingYet, placeWords(place, w)],
    yes: w.begin,
    no: w.doNotBegin,
    ...hints(w),
  };
}
