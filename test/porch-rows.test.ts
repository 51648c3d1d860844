import { cleanAtBothSizes, houseWithPages, sizes, until } from '@porch/testkit';
import { formatCode } from '@porch/core';
import { emailOf, PASSWORD } from '@porch/demo';
import { expect, it } from 'vitest';

/* The porch as somebody works at it all day: by the rows, by the keyboard, with the telephone ringing. */
const { house, pages } = await houseWithPages({ hasTickets: true });
const names = ['Ada Quillfeather', 'Samir Oduya', 'Greta Moss', 'Tomasz Wren', 'Jonas Ferreday'];

it('has fifteen who wait in sight, goes through them by arrows, and copies a code with C', async () => {
  const pim = await pages.signedIn(house);
  const rest = await house.signedIn();
  const { page } = pim;
  // Who is offered to somebody stands open; to somebody who is away, nobody is.
  await page.locator('[data-test=away]').click();
  await page.getByText('Nobody is offered to you').waitFor();
  await rest.publishKnownFault({ topic: 'Printing', text: 'Barcodes at Tern Quay are cut in half.' });
  for (let i = 0; i < 15; i++)
    await rest.request({
      ...{ name: names[i % names.length] ?? '', address: `waiting.${i}@marrowick.example`, topic: 'Printing' },
      ...{ language: 'en', description: `The scanner adds every part ${i} times`, ticketRef: 'MF-205' },
    });
  const rows = page.locator('[data-test=entry]');
  await until('all to stand there, none of them open', async () => (await rows.count()) === 15);
  await until('the last row to be in sight', async () => {
    const box = await rows.last().boundingBox();
    return box !== null && box.height <= 35 && box.y + box.height <= sizes.wide.height;
  });
  const fault = page.locator('[data-test=known-fault]');
  expect((await fault.boundingBox())?.y).toBeLessThan((await rows.first().boundingBox())?.y ?? 0);

  await page.locator('#start-field').focus();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  const focused = () => page.evaluate(() => document.activeElement?.getAttribute('aria-label'));
  expect(await focused()).toBe('Samir Oduya');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowUp');
  expect(await page.evaluate(() => document.activeElement?.id)).toBe('start-field');
  await cleanAtBothSizes(page, 'the porch with fifteen who wait');

  const { code } = await rest.start({});
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  const own = page.locator('[data-test=own-sessions] [data-row]');
  await own.focus();
  await page.keyboard.press('c');
  await page.getByText(`${formatCode(code.digits)} is copied.`).waitFor();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe(formatCode(code.digits));
  const height = async (what: string) => (await own.locator(what).boundingBox())?.height ?? 0;
  expect(await height('.code-now')).toBeLessThanOrEqual(34);
  const size = (what: string) => own.locator(what).evaluate((at) => parseFloat(getComputedStyle(at).fontSize));
  expect(await size('.code-now')).toBeGreaterThanOrEqual(2 * (await size('td.time')));

  // Enter on a row does what it is for.
  await rows.first().locator('[data-row]').focus();
  await page.keyboard.press('Enter');
  await page.waitForURL('**/session/**');
  expect(pim.problems).toEqual([]);
  await page.context().close();
});

it('who calls is found by their number, typed or handed over by the telephone system, also by who has to sign in first', async () => {
  const { page, problems } = await pages.signedIn(house);
  await page.locator('#start-field').fill('555 0161');
  await page.getByText('Enter shows who calls from 555 0161.').waitFor();
  await page.keyboard.press('Enter');
  const bettina = page.locator('[data-test=caller]');
  await bettina.getByText('A number is no proof of who somebody is.').waitFor();
  await bettina.getByText('MF-201').waitFor();
  await cleanAtBothSizes(page, 'who is on the telephone');
  // It is shown again by a page that is loaded again, and stands in no address.
  await page.reload();
  await bettina.getByText('MF-201').waitFor();
  expect(new URL(page.url()).search).toBe('');
  await bettina.getByRole('button', { name: 'Start from MF-201' }).click();
  await page.waitForURL('**/session/**');
  await page.locator('[data-test=telephone]').getByText('555-0161').waitFor();
  expect(await page.locator('[data-test=telephone]').getAttribute('href')).toBe('tel:5550161');
  await page.context().close();

  const rune = await pages.window();
  await rune.page.goto(`${house.url}/console/?phone=%2B47%20555%200162`);
  await rune.page.getByLabel('Email', { exact: true }).fill(emailOf('Rune Takahashi'));
  await rune.page.getByLabel('Password').fill(PASSWORD);
  expect(rune.page.url()).not.toContain('555');
  await rune.page.getByRole('button', { name: 'Sign in' }).click();
  await rune.page.locator('[data-test=caller]').getByRole('heading', { name: 'Samir Oduya' }).waitFor();
  await rune.page.locator('#caller-number').fill('MF-201');
  await rune.page.keyboard.press('Enter');
  await rune.page.getByText('A telephone number has 6 to 15 digits.').waitFor();
  await rune.page.locator('#caller-number').fill('555-0199');
  await rune.page.keyboard.press('Enter');
  await rune.page.locator('[data-test=nobody]').waitFor();
  await cleanAtBothSizes(rune.page, 'a number that nobody gave');
  expect([problems, rune.problems]).toEqual([[], []]);
  await rune.page.context().close();
});
