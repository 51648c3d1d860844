import { cleanAtBothSizes, houseWithPages, until } from '@porch/testkit';
import { expect, it } from 'vitest';

const { house, pages } = await houseWithPages();

it('a technician sees where they are signed in, and what they end is signed out where it is, by itself', async () => {
  const here = await pages.signedIn(house);
  const there = await pages.signedIn(house);
  await there.page.getByRole('link', { name: 'Devices' }).click();
  const terminal = await house.signedIn();
  await here.page.getByRole('link', { name: 'Pim Aldersey' }).click();
  await here.page.getByRole('heading', { name: 'Where you are signed in' }).waitFor();
  const rows = here.page.locator('[data-test=sign-in]');
  await until('all three', async () => (await rows.count()) === 3);
  expect(await rows.filter({ hasText: 'this one' }).allTextContents()).toEqual([
    expect.stringMatching(/Chromium on Linux · this one.*From 127\.0\.0\.1/),
  ]);
  await cleanAtBothSizes(here.page, 'where somebody is signed in');

  await here.page.getByRole('button', { name: /^End Chromium on Linux/ }).click();
  await here.page.getByText('1 ended. Whatever was open there is closed.').waitFor();
  // There it is noticed without a touch; whoever signs in again is where they were.
  await there.page.getByText('You were signed out here.').waitFor();
  await cleanAtBothSizes(there.page, 'the page of somebody who was signed out');
  await there.page.getByLabel('Email', { exact: true }).fill('pim.aldersey@marrowick.example');
  await there.page.getByLabel('Password').fill('harbour-lamp-41');
  await there.page.getByRole('button', { name: 'Sign in' }).click();
  await there.page.getByRole('heading', { name: 'Devices' }).waitFor();
  // Somebody who signs in meanwhile stands in the list by themselves.
  await until('the newcomer', async () => (await rows.count()) === 3);
  await here.page.locator('[data-test=end-others]').click();
  await here.page.getByText('You are signed in nowhere else.').waitFor();
  await expect(terminal.me()).rejects.toMatchObject({ code: 'SIGN_IN_NEEDED' });
  expect([...here.problems, ...there.problems]).toEqual([]);
});
