import { TechnicianCamera, type CameraPicture } from '@porch/client';
import { beginByLink, cleanAtBothSizes, desktopWithCamera, houseWithPages, until } from '@porch/testkit';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import sharp from 'sharp';
import { expect, it } from 'vitest';

/* The camera in real pages: the browser's own, which shows a moving pattern, and a printer's plate at a desktop. */

const { house, pages } = await houseWithPages();

/** What is drawn on a canvas: how large, and whether anything at all. */
const drawnOn = (page: Page, where: string) =>
  page.locator(where).evaluate((canvas: HTMLCanvasElement) => {
    const { width, height } = canvas;
    const data = canvas.getContext('2d')?.getImageData(0, 0, width, height).data ?? [];
    return { width, height, isDrawn: data.some((level, at) => at % 4 !== 3 && level > 60) };
  });

async function startedByPim() {
  const rest = await house.signedIn('Pim Aldersey');
  const started = await rest.start({});
  return { technician: await house.technician(rest, started.session.id), link: started.link };
}

it('is looked through from the console, turned, lit, and a picture in full size is kept', async () => {
  const session = await house.sessionUnderWay();
  session.technician.close();
  const { desktop, camera } = await desktopWithCamera(house, 'seen');
  const { person } = await house.withDoorstep(session.link, { desktop });
  const { page, problems } = await pages.signedIn(house);
  await page.goto(`${house.url}/console/session/${session.id}`);
  await page.locator('[data-test=more]').click();
  await page.locator('[data-test=chip-see-camera] button:not([disabled])').click();
  await person.answer(true, 1_100);
  await page.locator('[data-test=chip-see-camera][data-standing=allowed]').waitFor();
  await page.getByRole('button', { name: 'Camera', exact: true }).click();
  await page.getByText(/pictures? a second/).waitFor();
  await until('a picture', async () => (await drawnOn(page, '[data-test=camera-live]')).isDrawn);
  await until('a large one', async () => (await drawnOn(page, '[data-test=camera-live]')).width === 1280);
  await page.locator('[data-test=camera-large]').click();
  await until(
    'it over the stage',
    async () => ((await page.locator('[data-test=camera-live]').boundingBox())?.width ?? 0) > 900,
  );
  await page.keyboard.press('Escape');
  await page.locator('[data-test=camera-large][aria-pressed=false]').waitFor();
  await page.locator('[data-test=camera-turn]').click();
  // As large as the line and the machine allow at this moment.
  await until('it on its side', async () => {
    const { width, height } = await drawnOn(page, '[data-test=camera-live]');
    return height > width;
  });
  await page.locator('[data-test=camera-light]').click();
  await until('the light', () => camera.isLit);
  await page.locator('[data-test=camera-light][aria-pressed=true]').waitFor();
  await page.locator('[data-test=camera-take]').click();
  await page.locator('[data-test=screenshot-canvas]').waitFor();
  await until(
    'it as it was turned',
    async () => (await drawnOn(page, '[data-test=screenshot-canvas]')).height === 1920,
  );
  await cleanAtBothSizes(page, 'the camera');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.locator('[data-test=camera-save]').click(),
  ]);
  const saved = join(house.folder, 'plate.jpg');
  await download.saveAs(saved);
  expect(await sharp(saved).metadata()).toMatchObject({ format: 'jpeg', width: 1080, height: 1920 });
  // What is not in sight is not looked at, and its light goes.
  await page.getByRole('link', { name: 'Devices', exact: true }).click();
  await until('the light to be off', () => !camera.isLit);
  await page.goBack();
  await page.getByRole('button', { name: 'Camera', exact: true }).waitFor();
  await page.locator('[data-test=chip-see-camera]').getByRole('button').last().click();
  await page.getByRole('button', { name: 'Camera', exact: true }).waitFor({ state: 'detached' });
  expect(problems).toEqual([]);
});

it('shows the thing on the desk from a customer who has nothing but their page', async () => {
  const { technician, link } = await startedByPim();
  const { page, problems } = await pages.window();
  await page.context().grantPermissions(['camera']);
  await beginByLink(page, link);
  await until('the page to hold the consent', () => technician.state.holderId);
  const seen: CameraPicture[] = [];
  const camera = new TechnicianCamera(technician, (picture) => void seen.push(picture));
  camera.setOn(true);
  await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['see-camera'] });
  await page.getByText('Your camera is opened when you say yes').waitFor();
  await cleanAtBothSizes(page, 'the question');
  expect(seen.length, 'without a yes').toBe(0);
  await page.locator('[data-test=allow]').click();
  await page.getByRole('heading', { name: 'Your camera is open' }).waitFor();
  await page.getByText('Pim Aldersey can see this').waitFor();
  await until('pictures', () => seen.length > 5);
  const { width, height, jpeg } = seen.at(-1) as CameraPicture;
  expect(await sharp(jpeg).metadata()).toMatchObject({ format: 'jpeg', width, height });
  await cleanAtBothSizes(page, 'an open camera');
  const full = await camera.take();
  expect(full.width).toBeGreaterThan(width);
  expect(await sharp(full.jpeg).metadata()).toMatchObject({ width: full.width, height: full.height });
  await page.getByText('A picture was taken.').waitFor();
  // Nobody looks: it is closed, and the page says nothing of it any longer.
  camera.setOn(false);
  await page.locator('[data-test=camera]').waitFor({ state: 'detached' });
  camera.setOn(true);
  await page.getByRole('heading', { name: 'Your camera is open' }).waitFor();
  await page.locator('[data-test=private]').click();
  await until('a rest', () => camera.now.is === 'resting');
  await page.locator('[data-test=camera]').waitFor({ state: 'detached' });
  await page.locator('[data-test=private]').click();
  await page.getByRole('heading', { name: 'Your camera is open' }).waitFor();
  await page.getByRole('button', { name: 'Take back' }).click();
  await page.locator('[data-test=camera]').waitFor({ state: 'detached' });
  const before = seen.length;
  await technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'after that' });
  expect(seen.length).toBe(before);
  camera.close();
  expect(problems).toEqual([]);
});

it('says so where the browser lets nobody open it, and tries again when it is told to', async () => {
  const { technician, link } = await startedByPim();
  const { page } = await pages.window();
  await page.addInitScript(() => {
    const { mediaDevices } = navigator;
    const real = mediaDevices.getUserMedia.bind(mediaDevices);
    let refused = 0;
    mediaDevices.getUserMedia = (wanted) =>
      refused++ ? real(wanted) : Promise.reject(new DOMException('no', 'NotAllowedError'));
  });
  await page.context().grantPermissions(['camera']);
  await beginByLink(page, link);
  await until('the page to hold the consent', () => technician.state.holderId);
  const camera = new TechnicianCamera(technician, () => undefined);
  camera.setOn(true);
  await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['see-camera'] });
  await page.locator('[data-test=allow]').click();
  await page.getByRole('heading', { name: 'Your camera is closed' }).waitFor();
  await until('the word', () => camera.now.is === 'none');
  await cleanAtBothSizes(page, 'a camera that cannot be opened');
  await until('another try', async () => {
    const again = page.locator('[data-test=camera-again]');
    if (await again.isVisible()) await again.click();
    return camera.now.is === 'open';
  });
  await page.getByRole('heading', { name: 'Your camera is open' }).waitFor();
  camera.close();
});

it('says so before a yes where the browser has no way to show a camera', async () => {
  const { technician, link } = await startedByPim();
  const { page } = await pages.window();
  await page.addInitScript(() => Reflect.deleteProperty(globalThis, 'OffscreenCanvas'));
  await beginByLink(page, link);
  await until('the page to hold the consent', () => technician.state.holderId);
  await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['see-camera'] });
  await page.getByText('This browser opens no camera for this page').waitFor();
  expect(await page.locator('[data-test=allow]').count()).toBe(0);
  await page.getByRole('button', { name: 'No', exact: true }).click();
  await until('the no', () => technician.state.standings[technician.participantId]?.['see-camera']?.name === 'saidNo');
});
