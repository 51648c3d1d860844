import { beginByLink, clean, houseWithPages, lookAt, until } from '@porch/testkit';
import type { LiveConnection } from '@porch/client';
import { standingOf } from '@porch/core';
import type { Page } from 'playwright-core';
import { PNG } from 'pngjs';
import { expect, it } from 'vitest';

/* A customer who shows a tab from the browser, with nothing installed: the real page, the real capture of Chromium. */

const { house, pages } = await houseWithPages();

/** Comes in by a link and begins. The capture of a browser without a window is of this very tab. */
async function customerAt(link: string): Promise<{ page: Page; problems: string[] }> {
  const { page, problems } = await pages.window();
  await page.addInitScript(() => {
    const choose = navigator.mediaDevices.getDisplayMedia.bind(navigator.mediaDevices);
    navigator.mediaDevices.getDisplayMedia = (wish) =>
      choose({ ...wish, preferCurrentTab: true } as DisplayMediaStreamOptions);
  });
  await beginByLink(page, link);
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
  expect(technician.state.participants[technician.state.holderId ?? '']?.part).toBe('doorstep');
});

it('is pointed at and drawn on from the console, over a copy in their page; taken back, all of it goes', async () => {
  const pim = await pages.signedIn(house, 'Pim Aldersey');
  await pim.page.keyboard.press('Enter');
  await pim.page.locator('[data-test=aim-look]').click();
  // Of this very session: those of other tests are among theirs, too.
  const id = new URL(pim.page.url()).pathname.split('/').at(-1) ?? '';
  const rest = await house.signedIn('Pim Aldersey');
  const link = await until('the link', async () => {
    const [found] = await rest.invitations(id);
    return found && (await rest.invitationLink(id, found.id)).link;
  });
  const { page, problems } = await customerAt(link);
  await page.locator('[data-test=look-first]').waitFor();
  await clean(page, 'a session that is meant for looking');
  await pim.page.locator('[data-test=chip-view-screen] button:not([disabled])').click();
  // The thing on the desk: the camera, as a telephone would show it.
  await page.context().grantPermissions(['camera']);
  await page.locator('[data-test=allow-camera]').click();
  await page.getByText('You are showing what your camera sees').first().waitFor();
  // Shown is not yet allowed: what needs it could not be asked, and the first question would be answered again.
  await pim.page.locator('[data-test=chip-view-screen][data-standing=allowed]').waitFor();
  await pim.page.locator('[data-test=more]').click();
  await pim.page.locator('[data-test=chip-draw-on-screen] button:not([disabled])').click();
  await page.locator('[data-test=allow]').click();
  await pim.page.locator('[data-test=shelf-drawing]').click();
  await pim.page.locator('[data-test=tool-arrow]').click();
  const canvas = pim.page.locator('[data-test=stage-canvas]');
  await until('the camera on the stage', async () => ((await canvas.boundingBox())?.width ?? 0) > 200);
  const box = await canvas.boundingBox();
  if (!box) throw new Error('there is no stage');
  const draw = async (from: number, to: number) => {
    await pim.page.mouse.move(box.x + box.width * from, box.y + box.height * from);
    await pim.page.mouse.down();
    await pim.page.mouse.move(box.x + box.width * to, box.y + box.height * to, { steps: 4 });
    await pim.page.mouse.up();
  };
  await draw(0.25, 0.5);
  const marks = page.locator('[data-test=mark]');
  await marks.first().waitFor({ state: 'attached' });
  // Where it was drawn is where it is shown.
  expect(await marks.first().getAttribute('d')).toMatch(/^M 2[45]\d\.\d 2[45]\d\.\d L (49|50)\d\.\d (49|50)\d\.\d/);
  await page.getByText('Pim Aldersey shows you something').waitFor();
  await clean(page, 'the copy with what is drawn');
  await draw(0.6, 0.8);
  await until('two marks', async () => (await marks.count()) === 2);
  await pim.page.locator('[data-test=unmark-last]').click();
  await until('one mark', async () => (await marks.count()) === 1);
  // The customer shows where it hurts: it is on the stage, and each can take everything away.
  await page.locator('[data-test=draw-pen]').click();
  const surface = page.locator('[data-test=draw-surface]');
  await surface.scrollIntoViewIfNeeded();
  const copy = await surface.boundingBox();
  if (!copy) throw new Error('there is no copy');
  await page.mouse.move(copy.x + copy.width * 0.3, copy.y + copy.height * 0.6);
  await page.mouse.down();
  await page.mouse.move(copy.x + copy.width * 0.5, copy.y + copy.height * 0.7, { steps: 6 });
  await page.mouse.up();
  const onStage = pim.page.locator('[data-test=mark]');
  await until('both on the stage', async () => (await onStage.count()) === 2);
  await pim.page.getByText('Bettina').last().waitFor();
  await clean(page, 'the copy while somebody draws on it');
  await page.locator('[data-test=draw-clear]').click();
  await until('nothing on either side', async () => (await onStage.count()) + (await marks.count()) === 0);
  await draw(0.3, 0.4);
  await until('another mark', async () => (await marks.count()) === 1);
  await page.getByRole('button', { name: 'Take back' }).last().click();
  await until('no mark', async () => (await marks.count()) === 0);
  // A private moment from the page: the technician sees that it is one.
  await page.locator('[data-test=private]').click();
  await pim.page.locator('[data-test=is-private]').waitFor();
  await page.locator('[data-test=private]').click();
  await pim.page.locator('[data-test=is-private]').waitFor({ state: 'detached' });
  expect([problems, pim.problems]).toEqual([[], []]);
});
