import { startDesktop, type XDesktop } from '@porch/demo';
import { canvasPixels, clean, dumpScreen, House, Pages, samePixels, sizes, until } from '@porch/testkit';
import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* The stage as a technician has it: monitors, sizes, windows, keys, small pictures; against a real X screen. */
const [WIDTH, HEIGHT] = [1024, 640];
const left = { x: 0, y: 0, width: 600, height: HEIGHT };
const right = { x: 600, y: 0, width: 424, height: HEIGHT };

let house: House;
let pages: Pages;
let desktop: XDesktop;
beforeAll(async () => {
  house = await House.open();
  pages = await Pages.connect();
  desktop = await startDesktop(house.processes, {
    name: 'two monitors',
    home: join(house.folder, 'home-stage'),
    width: WIDTH,
    height: HEIGHT,
    programs: 'none',
  });
  const x = (...command: [string, ...string[]]) =>
    expect(spawnSync(command[0], command.slice(1), { env: { ...process.env, DISPLAY: desktop.display } }).status).toBe(
      0,
    );
  x('xrandr', '--setmonitor', 'HARBOUR-LEFT', `${left.width}/160x${HEIGHT}/170+0+0`, 'none');
  x('xrandr', '--setmonitor', 'HARBOUR-RIGHT', `${right.width}/110x${HEIGHT}/170+${right.x}+0`, 'none');
  x('xsetroot', '-mod', '16', '16', '-fg', '#8a5a20', '-bg', '#f4efe2');
});
afterAll(async () => {
  await pages.close();
  await house.close();
});

const equals = (page: Page, selector: string, part?: typeof left) => async () =>
  samePixels((await canvasPixels(page.locator(selector))).pixels, dumpScreen(desktop.display, part));
const STAGE = '[data-test=stage-canvas]';

it('shows monitors, sizes, windows of their own and full screen, maps the pointer exactly, and types whatever a person can', async () => {
  const session = await house.sessionUnderWay();
  session.technician.close();
  const { person } = await house.withDoorstep(session.link, { desktop });
  const { page, problems } = await pages.signedIn(house);
  await page.goto(`${house.url}/console/session/${session.id}`);
  for (const permission of ['view-screen', 'control-input']) {
    await page.locator(`[data-test=chip-${permission}] button:not([disabled])`).click();
    await person.answer(true, 1_100);
    await page.locator(`[data-test=chip-${permission}][data-standing=allowed]`).waitFor();
  }
  await until('the left monitor', equals(page, STAGE, left));
  await page.locator('[data-test=shelf-picture]').click();
  await clean(page, 'the picture drawer');

  // Monitors: the other one, all together, and back.
  await page.getByRole('button', { name: /^HARBOUR-RIGHT, 424×640/ }).click();
  await until('the right monitor', equals(page, STAGE, right));
  await page.locator('[data-test=all-monitors]').click();
  await until('all together', equals(page, STAGE));

  // One in a window of its own, while the stage goes on.
  const opened = page.waitForEvent('popup');
  await page.getByRole('button', { name: 'HARBOUR-LEFT in a window of its own' }).click();
  const own = await opened;
  await until('the own window', equals(own, STAGE, left));
  await own.close();

  // The pointer lands on the very pixel, at every size.
  await page.locator('[data-test=work]').click();
  await page.getByRole('button', { name: 'Pause my input' }).waitFor();
  for (const [size, x, y] of [
    ['Fit', 333, 222],
    ['50%', 700, 401],
    ['Original', 123, 45],
    ['150%', 201, 77],
    ['300%', 100, 50],
  ] as const) {
    await page.getByRole('button', { name: size, exact: true }).click();
    const box = await until('the stage', () =>
      page
        .locator(STAGE)
        .boundingBox()
        .then((found) => found ?? undefined),
    );
    const factor = box.width / WIDTH;
    await page.mouse.move(box.x + (x + 0.5) * factor, box.y + (y + 0.5) * factor);
    await until(`the pointer at ${x}, ${y} when ${size}`, async () => {
      const at = await person.pointer();
      return at.x === x && at.y === y;
    });
  }
  await page.getByRole('button', { name: 'Fit', exact: true }).click();

  // Keys: those a browser keeps, a dead key's letter, what an input method composes, any script.
  const typed = join(house.folder, 'typed');
  house.processes.start(
    'a terminal',
    'xterm',
    ['-u8', '-geometry', '60x20+100+100', '-e', `stty raw -echo; touch ${typed}; exec cat > ${typed}`],
    { env: { ...process.env, DISPLAY: desktop.display, LC_ALL: 'C.UTF-8' }, stdio: 'ignore' },
  );
  await until('the terminal', () => existsSync(typed));
  await until('its window on the stage', equals(page, STAGE));
  const box = await until('the stage', () =>
    page
      .locator(STAGE)
      .boundingBox()
      .then((found) => found ?? undefined),
  );
  await page.mouse.click(box.x + (200 * box.width) / WIDTH, box.y + (200 * box.width) / WIDTH);
  await page.keyboard.type('Ab1');
  await page.locator('[data-test=shelf-keys]').click();
  await page.locator('[data-test=key-set]').selectOption('browser');
  for (const label of ['Ctrl + T', 'Ctrl + W', 'Ctrl + N'])
    await page.getByRole('button', { name: label, exact: true }).click();
  await page.locator('[data-test=stage-keys]').focus();
  await page.keyboard.insertText('ê');
  const devtools = await page.context().newCDPSession(page);
  await devtools.send('Input.imeSetComposition', { text: 'に', selectionStart: 1, selectionEnd: 1 });
  await devtools.send('Input.insertText', { text: '日本' });
  await page.keyboard.type('ж€');
  await until('what was typed', () => readFileSync(typed, 'utf8') === 'Ab1\u0014\u0017\u000eê日本ж€').catch(() =>
    expect(JSON.stringify(readFileSync(typed, 'utf8'))).toBe(JSON.stringify('Ab1\u0014\u0017\u000eê日本ж€')),
  );
  await page.keyboard.press('Shift+Escape');
  await page.getByRole('button', { name: 'Work', exact: true }).waitFor();

  // Last, while somebody works: a page that is looked through for longer than the lease's silence gives it up.
  await page.getByRole('button', { name: 'Work', exact: true }).click();
  await page.getByRole('button', { name: 'Ctrl + T', exact: true, disabled: false }).waitFor();
  await clean(page, 'the drawer of keys');

  await page.locator('[data-test=shelf-picture]').click();
  await page.getByRole('button', { name: 'Full screen' }).click();
  await until('full screen', () => page.evaluate(() => document.fullscreenElement?.querySelector('canvas') !== null));
  await page.evaluate(() => document.exitFullscreen());

  await page.setViewportSize(sizes.narrow);
  await clean(page, 'the picture drawer, narrow');
  await page.setViewportSize(sizes.wide);

  // Elsewhere in the console the session stays at the bottom edge, with a small picture on demand.
  await page.getByRole('link', { name: 'The porch' }).click();
  await page.locator('[data-test=small-pictures]').click();
  const small = await until('a small picture', async () => {
    const picture = await canvasPixels(page.locator('[data-test=thumbnail]')).catch(() => undefined);
    return picture && picture.width === left.width / 8 && new Set(picture.pixels).size > 2 && picture;
  });
  expect([small.width, small.height]).toEqual([left.width / 8, HEIGHT / 8]);
  await clean(page, 'the porch with a small picture');
  expect(problems).toEqual([]);
}, 120_000);

it('has a screenshot taken, blanked before it goes anywhere, and put into the records, by keyboard alone', async () => {
  const session = await house.sessionUnderWay('Rune Takahashi');
  session.technician.close();
  const { person } = await house.withDoorstep(session.link, { desktop });
  const { page, problems } = await pages.signedIn(house, 'Rune Takahashi');
  await page.goto(`${house.url}/console/session/${session.id}`);
  for (const permission of ['view-screen', 'take-screenshot']) {
    if (permission === 'take-screenshot') await page.locator('[data-test=more]').click();
    await page.locator(`[data-test=chip-${permission}] button:not([disabled])`).click();
    await person.answer(true, 1_100);
    await page.locator(`[data-test=chip-${permission}][data-standing=allowed]`).waitFor();
  }
  await until('the left monitor', equals(page, STAGE, left));
  await page.locator('[data-test=shelf-screenshot]').press('Enter');
  const shot = page.locator('[data-test=screenshot-canvas]');
  const isAsTheScreen = async () => samePixels((await canvasPixels(shot)).pixels, dumpScreen(desktop.display, left));
  // The bar may have said something new just after it was taken: then another is.
  for (let takes = 1, isSame = false; !isSame; takes++) {
    await page.locator('[data-test=take-screenshot]:not([disabled])').press('Enter');
    await shot.waitFor();
    isSame = await until('the screenshot, as the screen is', isAsTheScreen, 10_000).catch((error: unknown) => {
      if (takes === 4) throw error;
      return false;
    });
  }
  await page.locator('[data-test=screenshot-upper]').press('Enter');
  const blanked = async () => {
    const { pixels } = await canvasPixels(shot);
    const half = pixels.length / 2;
    return pixels.subarray(0, half).every((p) => p === 0) && pixels.subarray(half).some((p) => p !== 0);
  };
  await until('the upper half to be blanked', blanked);
  await page.locator('[data-test=edit-undo]').press('Enter');
  await until('nothing to be blanked', async () => !(await blanked()));
  // By keys alone: a cross from the middle to the upper left corner, and words where it is.
  await page.locator('[data-test=edit-blank]').press('Enter');
  await shot.focus();
  await page.keyboard.press('Enter');
  for (const key of ['ArrowLeft', 'ArrowUp']) for (let i = 0; i < 25; i++) await page.keyboard.press(key);
  await page.keyboard.press('Enter');
  const cornerAt = async (x: number, y: number) => {
    const { pixels } = await canvasPixels(shot);
    return pixels[Math.round(y * left.height) * left.width + Math.round(x * left.width)];
  };
  await until(
    'a quarter to be blanked',
    async () => (await cornerAt(0.1, 0.1)) === 0 && (await cornerAt(0.45, 0.45)) === 0,
  );
  expect(await cornerAt(0.6, 0.6)).not.toBe(0);
  await page.locator('[data-test=edit-text]').press('Enter');
  await shot.press('Enter');
  await page.locator('[data-test=edit-words]').fill('the setting');
  await page.keyboard.press('Enter');
  await until('words in the corner', async () => (await cornerAt(0.005, 0.005)) !== 0);
  // With a mouse, large: an arrow in my colour.
  await page.locator('[data-test=edit-large]').click();
  await page.locator('[data-test=edit-arrow]').click();
  const box = (await shot.boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 };
  expect(box.width).toBeGreaterThan(500);
  const bare = await cornerAt(0.7, 0.6);
  await page.mouse.move(box.x + box.width * 0.6, box.y + box.height * 0.6);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.8, box.y + box.height * 0.6, { steps: 4 });
  await page.mouse.up();
  await until('the arrow', async () => (await cornerAt(0.7, 0.6)) !== bare);
  await page.getByLabel(/3 things are drawn on it/).waitFor();
  await clean(page, 'a large screenshot');
  await page.keyboard.press('Escape');
  await page.locator('[data-test=edit-large][aria-pressed=false]').waitFor();
  await clean(page, 'the screenshot drawer');
  await page.locator('[data-test=screenshot-keep]').press('Enter');
  await page.getByRole('link', { name: /^Screenshot of/ }).waitFor();
  const [kept] = await session.rest.screenshots(session.id);
  expect(kept?.sizeBytes).toBeGreaterThan(500);
  await page.locator('[data-test=screenshot-give]').press('Enter');
  await page.getByText('it lies with their downloads').waitFor();
  expect(problems).toEqual([]);
});
