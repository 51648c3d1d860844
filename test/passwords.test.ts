import { clean, houseWithPages, signInForm, until } from '@porch/testkit';
import { expect, it } from 'vitest';

/* Somebody types a password during a session: the console says so, and why there is no picture or a plain patch in it. */
const { house, pages } = await houseWithPages();
const TAB = 23;

it('says in the console that a password is typed: with its field covered, or without a picture and a clock until they go on', async () => {
  const s = await house.sessionUnderWay();
  s.technician.close();
  const { desktop, person } = await house.withDoorstep(s.link, { hasBus: true });
  const { page, problems } = await pages.signedIn(house);
  await page.goto(`${house.url}/console/session/${s.id}`);
  await page.locator('[data-test=chip-view-screen] button:not([disabled])').click();
  // What is noticed here and what is not is said before the yes.
  expect((await person.questionSaying(/everything on this screen/)).text).toContain('Fields for passwords are covered');
  await person.answer(true, 1_100);
  await page.locator('[data-test=chip-view-screen][data-standing=allowed]').waitFor();
  await signInForm(house, desktop, person);
  await person.tapKey(TAB);
  const covered = page.locator('[data-test=password-covered]');
  await covered.getByText('Bettina is typing a password; only that field is covered.').waitFor();
  await clean(page, 'a covered field');
  await person.tapKey(TAB);
  await covered.waitFor({ state: 'detached' });

  await signInForm(house, desktop, person, 2);
  await person.tapKey(TAB);
  const paused = page.locator('[data-test=password-paused]');
  await paused.getByText('Bettina is typing a password.').waitFor();
  await paused
    .locator('[data-test=password-clock]')
    .getByText(/0:0[1-9]/)
    .waitFor();
  await clean(page, 'no picture while a password is typed');
  expect(await s.customer.state.slices.passwords.typing?.care).toBe('paused');
  const bar = await until('the bar', () => person.bar());
  await person.click(bar.private.x, bar.private.y);
  await paused.waitFor({ state: 'detached' });
  await page.locator('canvas').first().waitFor();
  expect(problems).toEqual([]);
});
