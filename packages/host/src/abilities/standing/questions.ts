import {
  customerPermissionWords,
  daysLeft,
  standingPermissions,
  type Language,
  type SessionState,
  purposeForCustomer,
  rulesOf,
} from '@porch/core';
import type { Question } from '../../ports/question.ts';
import type { Standing, VisitLine } from '../../ports/standing-port.ts';
import { hostWords } from '../../words.ts';
import { deviceWords } from './words.ts';

/* What is asked and told of a standing consent, in the customer's language. */

const MAX_SHOWN_VISITS = 6;
/** How long a consent may be made for, as far as the desk allows. */
const DAY_CHOICES = [7, 30, 90];

const hints = (language: Language) => ({
  readFirst: hostWords[language].readFirst,
  onlyYou: hostWords[language].onlyYou,
});
export const dayChoices = (most: number): number[] => {
  const fitting = DAY_CHOICES.filter((days) => days <= most);
  return fitting.length ? fitting : [most];
};

/** What may be done at a visit; the last choice is whether each visit asks. */
export function keepQuestion(technician: string, deskName: string, name: string, language: Language): Question {
  const w = deviceWords[language];
  return {
    title: w.keepTitle(technician),
    lines: [w.keepFor(deskName, name), w.keepSecret, w.keepTick],
    yes: w.goOn,
    no: hostWords[language].no,
    ...hints(language),
    choices: [
      ...standingPermissions.map((p) => ({
        label: customerPermissionWords[language][p],
        isOn: rulesOf(p).isLookingOnly === true,
      })),
      { label: w.askEachVisit, isOn: true },
    ],
  };
}

export function daysQuestion(mostDays: number, language: Language): Question {
  const w = deviceWords[language];
  return {
    title: w.howLong,
    lines: [w.endsByItself],
    yes: w.goOn,
    no: hostWords[language].no,
    ...hints(language),
    isOneOf: true,
    choices: dayChoices(mostDays).map((days, i) => ({ label: w.days(days), isOn: i === 0 })),
  };
}

export function secretQuestion(words: readonly string[], language: Language): Question {
  const w = deviceWords[language];
  return {
    title: w.secretTitle,
    lines: [words.join('-'), w.secretNote, w.secretTries],
    yes: w.haveThem,
    no: w.doNotKeep,
    ...hints(language),
    more: w.otherWords,
    isSecret: true,
  };
}

export function welcomeQuestion(state: SessionState, technician: string | undefined, standing: Standing): Question {
  const { language } = state;
  const w = deviceWords[language];
  const allowed = standing.consent.allowed.map((p) => customerPermissionWords[language][p]).join(', ');
  return {
    title: w.wantsToVisit(technician ?? hostWords[language].technician, standing.deskName),
    lines: [purposeForCustomer(state, state.language), w.mayThen(allowed)].filter(Boolean),
    yes: hostWords[language].yes,
    no: hostWords[language].no,
    ...hints(language),
  };
}

/** The bar while a technician is at the door of this device, before anything is shown. */
export function atTheDoorLine(state: SessionState, hasBegun: boolean): { who: string; what: string } {
  const w = deviceWords[state.language];
  return {
    who: state.technicianName ?? hostWords[state.language].technician,
    what: hasBegun ? w.visits : w.isAtTheDoor,
  };
}

const dateOf = (atMs: number, language: Language) =>
  new Intl.DateTimeFormat(language, { dateStyle: 'medium', timeStyle: 'short' }).format(atMs);

/** The standing consent as its owner sees it, with every visit, and with the one step that ends it. */
export function standingLines(
  standing: Standing,
  visits: readonly VisitLine[],
  language: Language,
  nowMs: number,
): string[] {
  const w = deviceWords[language];
  const { consent } = standing;
  return [
    w.mayReach(standing.deskName, consent.name, w.days(daysLeft(consent.untilMs, nowMs))),
    w.mayThen(consent.allowed.map((p) => customerPermissionWords[language][p]).join(', ')),
    consent.asksEachVisit ? w.asksEach : w.asksNone,
    ...(standing.triesLeft > 0 ? [] : [w.locked]),
    ...(visits.length ? [] : [w.noVisits]),
    ...visits.map((v) => `${dateOf(v.atMs, language)}: ${v.technicianName}${v.hasBegun ? '' : ` (${w.notBegun})`}`),
  ];
}

export function standingQuestion(
  standing: Standing,
  visits: readonly VisitLine[],
  language: Language,
  nowMs: number,
): Question {
  const w = deviceWords[language];
  return {
    title: w.whoMay,
    lines: standingLines(standing, visits.slice(0, MAX_SHOWN_VISITS), language, nowMs),
    yes: w.keepIt,
    no: w.endIt,
    ...hints(language),
  };
}
