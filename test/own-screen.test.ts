import {
  beginByLink,
  canvasPixels,
  clean,
  cleanAtBothSizes,
  dumpScreen,
  houseWithPages,
  sizes,
  until,
} from '@porch/testkit';
import type { Page } from 'playwright-core';
import { PNG } from 'pngjs';
import { expect, it } from 'vitest';

/* A technician's screen, shown from the console: in the customer's page, and in Doorstep's window on a real desktop. */

const { house, pages } = await houseWithPages();
const AMBER = 0xf2b84b;

/** The capture of a browser without a window is of this very tab. */
const capturesItself = (page: Page) =>
  page.addInitScript(() => {
    const choose = navigator.mediaDevices.getDisplayMedia.bind(navigator.mediaDevices);
    navigator.mediaDevices.getDisplayMedia = () =>
      choose({ video: true, audio: false, preferCurrentTab: true } as DisplayMediaStreamOptions);
  });
/** As if a window of one colour had been chosen. */
const choosesWindow = (page: Page, colour: string) =>
  page.addInitScript((fill) => {
    navigator.mediaDevices.getDisplayMedia = () => {
      const canvas = Object.assign(document.createElement('canvas'), { width: 600, height: 400 });
      const context = canvas.getContext('2d');
      let turn = 0;
      setInterval(() => {
        if (!context) return;
        context.fillStyle = fill;
        context.fillRect(0, 0, 600, 400);
        // Something that moves, as it does in any window.
        context.fillStyle = turn++ % 2 ? '#000' : '#fff';
        context.fillRect(0, 0, 8, 8);
      }, 100);
      const stream = canvas.captureStream(10);
      for (const track of stream.getVideoTracks())
        track.getSettings = () => ({ displaySurface: 'window', width: 600, height: 400 });
      return Promise.resolve(stream);
    };
  }, colour);

async function consoleIn(id: string, prepare: (page: Page) => Promise<unknown>) {
  const { page, problems } = await pages.signedIn(house);
  await prepare(page);
  await page.goto(`${house.url}/console/session/${id}`);
  return { page, problems };
}
async function askToShow(page: Page): Promise<void> {
  await page.locator('[data-test=more]').click();
  await page.locator('[data-test=chip-show-own-screen] button:not([disabled])').click();
}
async function choose(page: Page): Promise<void> {
  await page.locator('[data-test=chip-show-own-screen][data-standing=allowed]').waitFor();
  await page.getByRole('button', { name: 'Show my screen', exact: true }).click();
  await page.locator('[data-test=own-screen-choose]').click();
}

it('shows a tab in the customer’s page, live, and is over when they close it', async () => {
  const rest = await house.signedIn('Pim Aldersey');
  const started = await rest.start({});
  const customer = await pages.window();
  await beginByLink(customer.page, started.link);
  await customer.page.getByText('What they may do now').waitFor();
  const pim = await consoleIn(started.session.id, capturesItself);
  await askToShow(pim.page);
  await customer.page.locator('[data-test=allow]').click();
  await choose(pim.page);
  const shown = customer.page.locator('[data-test=shown]');
  await shown.getByRole('heading', { name: 'Pim Aldersey shows you their screen' }).waitFor();
  const canvas = shown.locator('canvas');
  await canvas.waitFor();
  await pim.page.getByText('Bettina sees it.').first().waitFor();
  // What they see is what the browser says its page looks like, but for the copy of itself in it.
  await until('the very page', async () => {
    const { width, height, pixels } = await canvasPixels(canvas);
    if (width !== sizes.wide.width || height !== sizes.wide.height) return false;
    const shot = PNG.sync.read(await pim.page.screenshot());
    const far = pixels.filter((word, i) =>
      [16, 8, 0].some((shift, c) => Math.abs(((word >> shift) & 255) - (shot.data[i * 4 + c] ?? 0)) > 48),
    ).length;
    return far / pixels.length < 0.08;
  });
  await cleanAtBothSizes(customer.page, 'what is shown on the page');
  await clean(pim.page, 'the panel of what is shown');
  await shown.locator('[data-test=shown-large]').click();
  await until('it larger', async () => ((await canvas.boundingBox())?.width ?? 0) > 1_000);
  await customer.page.keyboard.press('Escape');
  await shown.locator('[data-test=shown-large][aria-pressed=false]').waitFor();
  await shown.locator('[data-test=shown-close]').click();
  await shown.waitFor({ state: 'detached' });
  await pim.page.getByText('Bettina closed it.').waitFor();
  await customer.page.getByText('You closed what was shown to you').first().waitFor();
  expect(await pim.page.locator('[data-test=own-screen-note]').count()).toBe(0);
  // Shown again, and taken back: gone at once, and the browser captures nothing.
  await pim.page.locator('[data-test=own-screen-choose]').click();
  await canvas.waitFor();
  await customer.page.getByRole('button', { name: 'Take back' }).click();
  await shown.waitFor({ state: 'detached' });
  await pim.page.locator('[data-test=own-screen-note]').waitFor({ state: 'detached' });
  expect([...customer.problems, ...pim.problems]).toEqual([]);
});

it('shows a window at a desktop, with their picture covered here meanwhile; a page loaded again shows nothing', async () => {
  const s = await house.sessionUnderWay();
  s.technician.close();
  const { desktop, person } = await house.withDoorstep(s.link);
  const { page, problems } = await consoleIn(s.id, (one) => choosesWindow(one, '#f2b84b'));
  await page.locator('[data-test=chip-view-screen] button:not([disabled])').click();
  await person.answer(true, 1_100);
  await page.locator('[data-test=chip-view-screen][data-standing=allowed]').waitFor();
  await askToShow(page);
  await person.answer(true, 1_100);
  await choose(page);
  const colour = async () => {
    const place = await person.shown();
    if (!place) return undefined;
    const { x, y, width, height } = place;
    return dumpScreen(desktop.display, { x: x + width / 2, y: y + Math.floor(height / 2), width: 1, height: 1 })[0];
  };
  // By way of luma and chroma in the browser: off by a little.
  const isAmber = (word = 0) =>
    [16, 8, 0].every((shift) => Math.abs(((word >> shift) & 255) - ((AMBER >> shift) & 255)) < 6);
  await until('the window', async () => isAmber(await colour()));
  await page.locator('[data-test=own-screen-cover]').waitFor();
  await clean(page, 'the stage while it is covered');
  await page.locator('[data-test=own-screen-uncover]').click();
  await page.locator('[data-test=own-screen-cover]').waitFor({ state: 'detached' });
  await page.reload();
  await until('the window to go', async () => (await person.shown()) === undefined);
  // Still allowed: by one press it is there again, and by one press it goes.
  await page.getByRole('button', { name: 'Show my screen', exact: true }).click();
  await page.locator('[data-test=own-screen-choose]').click();
  await until('the window', async () => isAmber(await colour()));
  // On whatever page: it is said with the name of the session.
  await page.getByRole('link', { name: 'The porch' }).click();
  await page.locator('[data-test=beside-name]').getByText('you show your screen').waitFor();
  await page.getByLabel('Open sessions').getByRole('link').click();
  await page.locator('[data-test=own-screen-note-stop]').click();
  await until('the window to go', async () => (await person.shown()) === undefined);
  expect(problems).toEqual([]);
});
