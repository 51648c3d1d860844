import type { PersonAtDesk } from '@porch/demo';
import { until } from './until.ts';

/** Nothing counts before that: a tick that came too early would be left out of a yes that did not. */
export async function questionToBeReady(person: PersonAtDesk): Promise<void> {
  await until('it can be answered', async () => (await person.question())?.isReady);
}

/** Before the yes to seeing, the person at the desktop hides the only program there; then the yes. */
export async function hideProgramAndAgree(person: PersonAtDesk): Promise<void> {
  const first = await until('the question', () => person.question());
  await questionToBeReady(person);
  await person.click(first.more.x, first.more.y);
  // Another question, of another height: which programs are not to be shown.
  const choosing = await until('the choice', async () => {
    const now = await person.question();
    return now && now.yes.y !== first.yes.y ? now : undefined;
  });
  await questionToBeReady(person);
  const program = choosing.choice(0, 1, false);
  await person.click(program.x, program.y);
  await person.click(choosing.yes.x, choosing.yes.y);
  await until('the question again', async () => (await person.question())?.yes.y === first.yes.y);
  await person.answer(true, 1_100);
}
