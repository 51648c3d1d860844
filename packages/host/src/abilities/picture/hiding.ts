import type { Language } from '@porch/core';
import { hints } from '../../consent/questions.ts';
import type { HidingPort, ProgramWindows } from '../../ports/desktop-ports.ts';
import type { Answer, Question } from '../../ports/question.ts';
import { host } from '@porch/words/host';

/** More programs than this do not fit; the first ones are those on top. */
const MAX_CHOICES = 8;

export function hideQuestion(programs: readonly ProgramWindows[], language: Language): Question {
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
export async function chooseHidden(
  hiding: HidingPort,
  language: Language,
  put: (question: Question) => Promise<Answer | undefined>,
): Promise<void> {
  const programs = await hiding.listPrograms();
  const answer = await put(hideQuestion(programs, language));
  if (answer?.what !== 'yes') return;
  // Those that did not fit into the list stay as they are.
  await hiding.setHidden(programs.filter((p, i) => answer.choices[i] ?? p.isHidden).map((p) => p.program));
}
