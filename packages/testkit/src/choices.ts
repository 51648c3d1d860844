import type { PersonAtDesk } from '@porch/demo';
import { until } from './until.ts';

/** Nothing counts before that: a tick that came too early would be left out of a yes that did not. */
export async function questionToBeReady(person: PersonAtDesk): Promise<void> {
  await until('it can be answered', async () => (await person.question())?.isReady);
}

/** The person picks what may be seen, of so many choices: the whole screen, that without some programs, or one of the programs. */
export const chooseShown = (person: PersonAtDesk, i: number, of: number): Promise<string> =>
  person.press(/^What may be seen/, 'yes', { i, of });

/** Hides the only program there, or shows it again. */
export async function tickHidden(person: PersonAtDesk): Promise<void> {
  await chooseShown(person, 1, 3);
  await person.press(/^What is not to be shown/, 'yes', { i: 0, of: 1 });
}

/** Before the yes to seeing, the person at the desktop hides the only program there; then the yes. */
export async function hideProgramAndAgree(person: PersonAtDesk): Promise<void> {
  await person.press(/will see everything/, 'more');
  await tickHidden(person);
  await person.questionSaying(/will see everything/);
  await person.answer(true, 1_100);
}

/** Before the yes to seeing, the person picks the topmost of so many programs as the only one that is seen; then the yes. Hands back what the question said by then. */
export async function showOnlyTopmostAndAgree(person: PersonAtDesk, programs: number): Promise<string> {
  await person.press(/will see everything/, 'more');
  await chooseShown(person, 2, 2 + programs);
  const { text } = await person.questionSaying(/only, with all its windows/);
  await person.answer(true, 1_100);
  return text;
}
