import {
  beginByLink,
  chooseShown,
  clean,
  cleanAtBothSizes,
  houseWithPages,
  KeyCatcher,
  showOnlyTopmostAndAgree,
  until,
} from '@porch/testkit';
import { expect, it } from 'vitest';

/* One program only: what the console and the customer's page say of it, from the choice to its end. */
const { house, pages } = await houseWithPages();

it('is said in the console and on the customer’s page, and that it was closed, until another choice is made', async () => {
  const rest = await house.signedIn('Pim Aldersey');
  const { link, session } = await rest.start({});
  const theirs = await pages.window();
  await beginByLink(theirs.page, link);
  const href = (await theirs.page.locator('a[href^="zesty-porch:"]').getAttribute('href')) ?? '';
  const { person, desktop } = await house.withDoorstep(href.split('/join/')[1] ?? '', { programs: 'none' });
  const program = await KeyCatcher.titled(desktop.display, 'Quay tickets', { at: [150, 250], colour: 0x2f7d4f });
  const { page, problems } = await pages.signedIn(house);
  await page.goto(`${house.url}/console/session/${session.id}`);
  await page.locator('[data-test=chip-view-screen] button:not([disabled])').click();
  await showOnlyTopmostAndAgree(person, 1);
  await page.locator('[data-test=chip-view-screen][data-standing=allowed]').waitFor();
  const strip = page.locator('[data-test=strip-note]');
  await strip.getByText('Bettina shows one program only; everything else is covered').waitFor();
  await theirs.page.locator('[data-test=shows-one]').getByText('You show one program only').waitFor();
  await page.locator('canvas').first().waitFor();
  await cleanAtBothSizes(page, 'one program');
  await clean(theirs.page, 'one program, their page');

  program.close();
  const note = page.locator('[data-test=shows-nothing]');
  await note.getByText('The program that Bettina shows was closed.').waitFor();
  await strip.waitFor({ state: 'detached' });
  await theirs.page.locator('[data-test=shows-one]').getByText('nothing is shown until you choose again').waitFor();
  await clean(page, 'a closed program');
  const bar = await until('the bar', () => person.bar());
  await person.click(bar.hide.x, bar.hide.y);
  await chooseShown(person, 0, 2);
  await note.waitFor({ state: 'detached' });
  await theirs.page.locator('[data-test=shows-one]').waitFor({ state: 'detached' });
  expect([...problems, ...theirs.problems]).toEqual([]);
});
