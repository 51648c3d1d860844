import type { Language } from '@porch/core';
import { hints } from '../../consent/questions.ts';
import type { HidingPort, ProgramWindows } from '../../ports/hiding-port.ts';
import type { Answer, Question } from '../../ports/question.ts';
import { shortened } from '../../shortened.ts';
import { host } from '@porch/words/host';

/** More choices than this do not fit; the first programs are those on top. */
const MAX_CHOICES = 8;
/** What stands before the programs, of which one can be chosen. */
const [EVERYTHING, WITHOUT, FIRST_PROGRAM] = [0, 1, 2];

type Put = (question: Question) => Promise<Answer | undefined>;

function hideQuestion(programs: readonly ProgramWindows[], language: Language): Question {
  const { kernel, picture: w } = host[language];
  return {
    title: w.hideTitle,
    lines: [programs.length ? w.hideNote : w.nothingOpen],
    yes: w.done,
    no: w.cancel,
    ...hints(kernel),
    choices: programs.slice(0, MAX_CHOICES).map(({ title, isHidden }) => ({ label: title, isOn: isHidden })),
  };
}

/** The person here picks whose windows never leave this computer. No title leaves it, either. */
async function chooseHidden(hiding: HidingPort, language: Language, put: Put): Promise<void> {
  const programs = await hiding.listPrograms();
  const answer = await put(hideQuestion(programs, language));
  if (answer?.what !== 'yes') return;
  // Those that did not fit into the list stay as they are.
  await hiding.setHidden(programs.filter((p, i) => answer.choices[i] ?? p.isHidden).map((p) => p.program));
  await hiding.showOnly(undefined);
}

function shownQuestion(programs: readonly ProgramWindows[], shown: HidingPort['shown'], language: Language): Question {
  const { kernel, picture, oneProgram: w } = host[language];
  const hidesAny = programs.some(({ isHidden }) => isHidden);
  const one = programs.findIndex(({ isOnlyOne }) => isOnlyOne);
  const isOn = one >= 0 ? FIRST_PROGRAM + one : shown.what === 'everything' ? (hidesAny ? WITHOUT : EVERYTHING) : -1;
  const labels = [w.everything, w.without, ...programs.map(({ title }) => w.only({ title: shortened(title) }))];
  return {
    title: w.chooseTitle,
    lines: [w.chooseNote],
    yes: picture.done,
    no: picture.cancel,
    ...hints(kernel),
    isOneOf: true,
    choices: labels.map((label, at) => ({ label, isOn: at === isOn })),
  };
}

/** The person here picks what may be seen: everything, everything but some programs, or one program alone. */
export async function chooseShown(hiding: HidingPort, language: Language, put: Put): Promise<void> {
  const programs = await hiding.listPrograms();
  const offered = programs.slice(0, MAX_CHOICES - FIRST_PROGRAM);
  const answer = await put(shownQuestion(offered, hiding.shown, language));
  if (answer?.what !== 'yes') return;
  const chosen = answer.choices.indexOf(true);
  if (chosen === WITHOUT) return chooseHidden(hiding, language, put);
  if (chosen === EVERYTHING) {
    await hiding.setHidden([]);
    await hiding.showOnly(undefined);
  }
  const one = offered[chosen - FIRST_PROGRAM];
  if (!one) return;
  await hiding.showOnly(one.program);
  await hiding.setHidden(programs.filter((p) => p.isHidden && p !== one).map((p) => p.program));
}
