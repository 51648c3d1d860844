import { clean, dumpScreen, houseWithPages, until } from '@porch/testkit';
import { expect, it } from 'vitest';

/* Hands off, from the console: what of mine rests at once, what of theirs by their leave; both sides read it. */

const { house, pages } = await houseWithPages({ hasTickets: true });
const COVER = 0x0a2a2f;
const ESCAPE = 9;

it('asks them to step back, blocks and covers by their leave with a clock, and pauses what is mine', async () => {
  const s = await house.sessionUnderWay('Pim Aldersey', 'MF-201', undefined, 'ticket-comment');
  s.technician.close();
  const { desktop, person } = await house.withDoorstep(s.link);
  const { page, problems } = await pages.signedIn(house);
  await page.goto(`${house.url}/console/session/${s.id}`);
  for (const permission of ['view-screen', 'control-input']) {
    await page.locator(`[data-test=chip-${permission}] button:not([disabled])`).click();
    await person.answer(true, 1_100);
    await page.locator(`[data-test=chip-${permission}][data-standing=allowed]`).waitFor();
  }
  await page.locator('[data-test=shelf-hands-off]').press('Enter');
  const slice = () => s.customer.state.slices['hands-off'];
  await page.locator('[data-test=step-back]').press('Enter');
  await page.getByText('Bettina reads that mouse and keyboard should be left alone').waitFor();
  await until('the session to say so', () => slice().stepBackFor !== undefined);
  await page.locator('[data-test=step-back-over]').press('Enter');
  await until('the session to say so', () => slice().stepBackFor === undefined);

  for (const permission of ['block-input', 'cover-screen']) {
    await page.locator(`[data-test=ask-${permission}]`).press('Enter');
    expect((await person.questionSaying(/until \d/)).text).toContain('The key Esc');
    await person.answer(true, 1_100);
    await page.locator(`[data-test=give-back-${permission}]`).waitFor();
  }
  await until('the cover', () => dumpScreen(desktop.display, { x: 20, y: 700, width: 1, height: 1 })[0] === COVER);
  await page
    .locator('[data-test=hands-off-note]')
    .getByText(/4:\d\d left/)
    .first()
    .waitFor();
  // On whatever page: it is said with the name of the session.
  await page.getByRole('link', { name: 'The porch' }).click();
  await page.locator('[data-test=beside-name]').getByText('their screen is covered').waitFor();
  await page.getByLabel('Open sessions').getByRole('link').click();
  // One of them back by a press here, the other by the key there.
  await page.locator('[data-test=give-back-cover-screen]').press('Enter');
  await until('the screen', () => dumpScreen(desktop.display, { x: 20, y: 700, width: 1, height: 1 })[0] !== COVER);
  await person.tapKey(ESCAPE);
  await page.locator('[data-test=hands-off-note]').waitFor({ state: 'detached' });
  await page.locator('[data-test=chip-block-input][data-standing=takenBack]').waitFor({ state: 'attached' });

  await page.locator('[data-test=shelf-hands-off]').press('Enter');
  await page.locator('[data-test=pause-view]').press('Enter');
  await page.locator('[data-test=view-paused]').waitFor();
  await until('nobody to look', () => s.customer.viewers.every(({ displays }) => displays.length === 0));
  await clean(page, 'a paused view');
  await page.locator('[data-test=look-again]').press('Enter');
  await page.locator('canvas').first().waitFor();

  // Last: looking for barriers may keep the page so busy that it falls silent, and what rests is given back then.
  await page.locator('[data-test=ask-cover-screen]').press('Enter');
  await person.questionSaying(/until \d/);
  await person.answer(true, 1_100);
  await page.locator('[data-test=hands-off-note]').waitFor();
  await clean(page, 'hands off');
  expect(problems).toEqual([]);
});
