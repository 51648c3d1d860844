import { speechOf } from '@porch/words';
import { host } from '@porch/words/host';
import { ledger } from '@porch/words/ledger';
import {
  customersAct,
  daysLeft,
  standingPermissions,
  type Language,
  type SessionState,
  purposeForCustomer,
  rulesOf,
} from '@porch/core';
import type { Question } from '../../ports/question.ts';
import type { Standing, VisitLine } from '../../ports/standing-port.ts';

/* What is asked and told of a standing consent, in the customer's language. */

const MAX_SHOWN_VISITS = 6;
/** How long a consent may be made for, as far as the desk allows. */
const DAY_CHOICES = [7, 30, 90];

const hints = (language: Language) => {
  const { readFirst, onlyYou } = host[language].kernel;
  return { readFirst, onlyYou };
};
export const dayChoices = (most: number): number[] => {
  const fitting = DAY_CHOICES.filter((days) => days <= most);
  return fitting.length ? fitting : [most];
};

/** What may be done at a visit; the last choice is whether each visit asks. */
export function keepQuestion(technician: string, deskName: string, name: string, language: Language): Question {
  const w = host[language].standing;
  return {
    title: w.keepTitle({ name: technician }),
    lines: [w.keepFor({ desk: deskName, device: name }), w.keepSecret, w.keepTick],
    yes: w.goOn,
    no: host[language].kernel.no,
    ...hints(language),
    choices: [
      ...standingPermissions.map((p) => ({
        label: customersAct(p, ledger[language]),
        isOn: rulesOf(p).isLookingOnly === true,
      })),
      { label: w.askEachVisit, isOn: true },
    ],
  };
}

export function daysQuestion(mostDays: number, language: Language): Question {
  const w = host[language].standing;
  return {
    title: w.howLong,
    lines: [w.endsByItself],
    yes: w.goOn,
    no: host[language].kernel.no,
    ...hints(language),
    isOneOf: true,
    choices: dayChoices(mostDays).map((days, i) => ({ label: w.days({ days }), isOn: i === 0 })),
  };
}

export function secretQuestion(words: readonly string[], language: Language): Question {
  const w = host[language].standing;
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
  const w = host[language].standing;
  const allowed = speechOf(language).list(standing.consent.allowed.map((p) => customersAct(p, ledger[language])));
  return {
    title: w.wantsToVisit({ name: technician ?? host[language].kernel.technician, desk: standing.deskName }),
    lines: [purposeForCustomer(state, ledger[language]), w.mayThen({ what: allowed })].filter(Boolean),
    yes: host[language].kernel.yes,
    no: host[language].kernel.no,
    ...hints(language),
  };
}

/** The bar while a technician is at the door of this device, before anything is shown. */
export function atTheDoorLine(state: SessionState, hasBegun: boolean): { who: string; what: string } {
  const w = host[state.language].standing;
  return {
    who: state.technicianName ?? host[state.language].kernel.technician,
    what: hasBegun ? w.visits : w.isAtTheDoor,
  };
}

/** The standing consent as its owner sees it, with every visit, and with the one step that ends it. */
export function standingLines(
  standing: Standing,
  visits: readonly VisitLine[],
  language: Language,
  nowMs: number,
): string[] {
  const w = host[language].standing;
  const speech = speechOf(language);
  const { consent } = standing;
  return [
    w.mayReach({ desk: standing.deskName, device: consent.name, days: daysLeft(consent.untilMs, nowMs) }),
    w.mayThen({ what: speech.list(consent.allowed.map((p) => customersAct(p, ledger[language]))) }),
    consent.asksEachVisit ? w.asksEach : w.asksNone,
    ...(standing.triesLeft > 0 ? [] : [w.locked]),
    ...(visits.length ? [] : [w.noVisits]),
    ...visits.map((v) =>
      w[v.hasBegun ? 'visit' : 'visitNotBegun']({ when: speech.dayAndTime(v.atMs), name: v.technicianName }),
    ),
  ];
}

export function standingQuestion(
  standing: Standing,
  visits: readonly VisitLine[],
  language: Language,
  nowMs: number,
): Question {
  const w = host[language].standing;
  return {
    title: w.whoMay,
    lines: standingLines(standing, visits.slice(0, MAX_SHOWN_VISITS), language, nowMs),
    yes: w.keepIt,
    no: w.endIt,
    ...hints(language),
  };
}
