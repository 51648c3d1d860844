import { clean, House, lookAt, Pages, until } from '@porch/testkit';
import type { LiveConnection } from '@porch/client';
import { standingOf } from '@porch/core';
import type { Page } from 'playwright-core';
import { PNG } from 'pngjs';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* A customer who shows a tab from the browser, with nothing installed: the real page, the real capture of Chromium. */

let house: House;
let pages: Pages;
beforeAll(async () => {
  house = await House.open();
  pages = await Pages.connect();
});
afterAll(async () => {
  await pages.close();
  await house.close();
});

/** Comes in by a link and begins. The capture of a browser without a window is of this very tab. */
async function customerAt(link: string): Promise<{ page: Page; problems: string[] }> {
  const { page, problems } = await pages.window();
  await page.addInitScript(() => {
    const choose = navigator.mediaDevices.getDisplayMedia.bind(navigator.mediaDevices);
    navigator.mediaDevices.getDisplayMedia = (wish) =>
      choose({ ...wish, preferCurrentTab: true } as DisplayMediaStreamOptions);
  });
  await page.goto(link);
  await page.getByRole('button', { name: 'Continue' }).click();
  await page.getByRole('button', { name: 'I called them' }).click();
  await page.getByLabel('Your name').fill('Bettina Crole');
  await page.getByRole('button', { name: 'Begin', exact: true }).click();
  await page.getByText('What they may do now').waitFor();
  return { page, problems };
}
const may = (technician: LiveConnection) =>
  standingOf(technician.state, technician.participantId, 'view-screen').name === 'allowed';
const askToSee = (technician: LiveConnection) =>
  technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });

/** How far the picture is from what the browser says its page looks like: mean difference of a channel, and the share far off. */
async function distance(page: Page, seen: ReturnType<typeof lookAt>): Promise<{ mean: number; farShare: number }> {
  const shot = PNG.sync.read(await page.screenshot());
  const words = seen.pixels();
  if (words.length !== shot.width * shot.height) return { mean: Infinity, farShare: 1 };
  let [sum, far] = [0, 0];
  words.forEach((word, i) => {
    const off = [16, 8, 0].map((shift, c) => Math.abs(((word >> shift) & 255) - (shot.data[i * 4 + c] ?? 0)));
    sum += (off[0] ?? 0) + (off[1] ?? 0) + (off[2] ?? 0);
    if (Math.max(...off) > 48) far++;
  });
  return { mean: sum / words.length / 3, farShare: far / words.length };
}

it('shows a tab, to be looked at only, follows what changes there, and stops at once', async () => {
  const rest = await house.signedIn('Pim Aldersey');
  const started = await rest.start({});
  const technician = await house.technician(rest, started.session.id);
  const { page, problems } = await customerAt(started.link);
  const seen = lookAt(technician);
  await until('the page to hold its own picture', () => technician.state.holderId);
  await expect(
    technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['give-files'] }),
  ).rejects.toMatchObject({ code: 'NEEDS_DOORSTEP' });

  await askToSee(technician);
  const allow = page.locator('[data-test=allow]');
  await allow.waitFor();
  expect(await allow.isDisabled(), 'what nobody has read is not answered').toBe(true);
  await clean(page, 'the question on the page');
  await allow.click();
  await page.locator('[data-test=showing]').waitFor();
  await until('it to be allowed', () => may(technician));
  await until('the picture', seen.isFresh);
  await until('the picture to be what the page shows', async () => {
    const { mean, farShare } = await distance(page, seen);
    return mean < 2 && farShare < 0.01;
  });

  // A word of the customer's own changes the page; the picture follows.
  const before = seen.pixels();
  await page.getByLabel('Your message').fill('The label printer prints half a label.');
  await until('the words in the picture', async () => {
    const now = seen.pixels();
    return now.some((word, i) => word !== before[i]) && (await distance(page, seen)).mean < 2;
  });

  await page.locator('[data-test=stop-showing]').click();
  await until('it to be taken back', () => !may(technician));
  await page.locator('[data-test=showing]').waitFor({ state: 'detached' });
  expect(problems).toEqual([]);
});

it('makes way for Doorstep: the page shows nothing any longer, and what is asked then is asked at the desktop', async () => {
  const rest = await house.signedIn('Rune Takahashi');
  const started = await rest.start({});
  const technician = await house.technician(rest, started.session.id);
  const { page } = await customerAt(started.link);
  await until('the page to hold its own picture', () => technician.state.holderId);
  await askToSee(technician);
  await page.locator('[data-test=allow]').click();
  await page.locator('[data-test=showing]').waitFor();
  const link = (await page.getByRole('link', { name: 'Open Doorstep' }).getAttribute('href')) ?? '';
  const { person } = await house.withDoorstep(link.split('/join/')[1] ?? '', { programs: 'none' });
  await until('the page to have stopped', () => !may(technician));
  await page.locator('[data-test=showing]').waitFor({ state: 'detached' });
  const seen = lookAt(technician);
  await askToSee(technician);
  await person.answer(true, 1_100);
  await until('the desktop', seen.isFresh);
  expect(technician.state.participants[technician.state.holderId ?? '']?.role).toBe('doorstep');
});
