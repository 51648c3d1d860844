import { startDesktop, type PersonAtDesk, type XDesktop } from '@porch/demo';
import { canvasPixels, clean, dumpScreen, houseWithPages, KeyReader, samePixels, until } from '@porch/testkit';
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { beforeAll, expect, it } from 'vitest';

/* A technician's own hands at the stage: their keys, wheel and fingers, a magnifier, windows, and a line that goes. */
const { house, pages } = await houseWithPages();
const [WIDTH, HEIGHT] = [1280, 800];
/** What nothing lies on is of this colour there. */
const GROUND = 0x406080;
const STAGE = '[data-test=stage-canvas]';
let desktop: XDesktop;
beforeAll(async () => {
  desktop = await startDesktop(house.processes, {
    name: 'a test',
    home: join(house.folder, 'home'),
    width: WIDTH,
    height: HEIGHT,
    programs: 'none',
  });
  execFileSync('xsetroot', ['-display', desktop.display, '-solid', '#406080']);
});

async function working(): Promise<{
  page: Page;
  problems: string[];
  reader: KeyReader;
  person: PersonAtDesk;
  id: string;
}> {
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
  await page.locator('[data-test=work]').click();
  await page.getByRole('button', { name: 'Pause my input' }).waitFor();
  const reader = new KeyReader(desktop.display);
  await until('its keyboard', async () => {
    await clickAt(page, 640, 400);
    await page.keyboard.type('x');
    return reader.heard.includes('x');
  });
  return { page, problems, reader, person, id: session.id };
}
/** Where a pixel of the display is on the page. */
async function placeOf(page: Page, x: number, y: number): Promise<{ x: number; y: number }> {
  const box = await until('the stage', async () => (await page.locator(STAGE).boundingBox()) ?? undefined);
  return { x: box.x + ((x + 0.5) * box.width) / WIDTH, y: box.y + ((y + 0.5) * box.height) / HEIGHT };
}
async function clickAt(page: Page, x: number, y: number): Promise<void> {
  const at = await placeOf(page, x, y);
  await page.mouse.click(at.x, at.y);
}

/** How much of what a window shows on the screen is of the colour of that desktop, and not what could be read of it. */
async function shareOfGround(own: Page): Promise<number> {
  const png = (await own.screenshot()).toString('base64');
  return own.evaluate(
    async ([base64, colour]) => {
      const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
      const image = await createImageBitmap(new Blob([bytes], { type: 'image/png' }));
      const context = new OffscreenCanvas(image.width, image.height).getContext('2d');
      context?.drawImage(image, 0, 0);
      const { data } = context?.getImageData(0, 0, image.width, image.height) ?? { data: new Uint8ClampedArray() };
      const pixels = new DataView(data.buffer);
      let ground = 0;
      for (let at = 0; at < data.length; at += 4) if (pixels.getUint32(at) >>> 8 === colour) ground++;
      return ground / (data.length / 4);
    },
    [png, GROUND] as const,
  );
}

it('has keys of their own, kept for the person; a wheel that turns finely; fingers; and what did not arrive is asked about', async () => {
  const { page, problems, reader } = await working();

  // Their own keys.
  await page.locator('[data-test=shelf-keys]').click();
  await page.locator('[data-test=own-Alt]').selectOption('Control');
  const kept = await house.signedIn();
  await until('it to be kept', async () => Object.values((await kept.preferences()).keyMaps)[0]?.Alt === 'Control');
  await clickAt(page, 640, 400);
  await page.keyboard.press('Alt+c');
  await until('the other key', () => reader.keys.includes('Control_L') && reader.keys.includes('c'));
  expect(reader.keys).not.toContain('Alt_L');
  expect((await (await house.signedIn('Rune Takahashi')).preferences()).keyMaps, 'of this person alone').toEqual({});

  // The key of this page never goes there.
  await page.keyboard.press('F8');
  await page.locator('[data-test=finder]').waitFor();
  await clean(page, 'everything that can be done');
  await page.keyboard.press('/');
  await page.keyboard.type('hand ov');
  await page.locator('[data-test=act-files]').waitFor({ state: 'detached' });
  await page.keyboard.press('Enter');
  await page.locator('[data-test=shelf-handover][aria-expanded=true]').waitFor();
  await clickAt(page, 640, 400);
  await page.keyboard.press('F8');
  await page.keyboard.press('f');
  await page.locator('[data-test=shelf-files][aria-expanded=true]').waitFor();
  await clickAt(page, 640, 400);
  await page.keyboard.press('F8');
  await page.keyboard.press('Escape');
  await page.keyboard.press('F9');
  await until('another key, without a click', () => reader.keys.includes('F9'));
  expect(reader.keys).not.toContain('F8');
  expect(reader.heard).not.toContain('f');

  // A wheel in small parts: as many steps as they make together.
  reader.buttons = [];
  await clickAt(page, 640, 400);
  for (let i = 0; i < 8; i++) await page.mouse.wheel(0, 30);
  await clickAt(page, 640, 400);
  await until('the click behind it', () => reader.buttons.filter((b) => b === 1).length === 2);
  expect(reader.buttons).toEqual([1, 5, 5, 1]);

  // Fingers: told once what they do, then a tap, two for the other button, two that move for the wheel.
  reader.buttons = [];
  const devtools = await page.context().newCDPSession(page);
  const { x, y } = await placeOf(page, 640, 400);
  const touch = (
    type: 'touchStart' | 'touchMove' | 'touchEnd',
    ...touchPoints: { x: number; y: number; id: number }[]
  ) => devtools.send('Input.dispatchTouchEvent', { type, touchPoints });
  await touch('touchStart', { x, y, id: 1 });
  await touch('touchEnd');
  await until('a tap', () => reader.buttons.join() === '1');
  // A machine that stood still for a moment is a line that was gone: that is asked about first.
  await until('what is explained', async () => {
    const forget = page.locator('[data-test=forget-missed]');
    if (await forget.count()) await forget.click();
    return (await page.locator('[data-test=explained]').count()) > 0;
  });
  await clean(page, 'what is explained once');
  await page.getByRole('button', { name: 'Understood' }).click();
  const two = (by: number) => [
    { x: x - 20, y: y + by, id: 1 },
    { x: x + 20, y: y + by, id: 2 },
  ];
  await touch('touchStart', ...two(0));
  await touch('touchEnd');
  await until('the other button', () => reader.buttons.join() === '1,3');
  await touch('touchStart', ...two(0));
  for (let by = 20; by <= 160; by += 20) await touch('touchMove', ...two(-by));
  await touch('touchEnd');
  await until('the wheel', () => reader.buttons[2] === 5);
  expect(new Set(reader.buttons.slice(2))).toEqual(new Set([5]));
  expect(await page.locator('[data-test=explained]').count(), 'told once').toBe(0);

  // The line goes, and hands go on.
  await clickAt(page, 640, 400);
  await page.keyboard.type('k');
  await until('it to arrive', () => reader.heard.endsWith('k'));
  await house.killService();
  await page.getByText('Your line to the service is gone').waitFor();
  await page.keyboard.type('lot');
  await page.keyboard.press('Backspace');
  await page.keyboard.type('ost');
  await page.locator('[data-test=missed]').waitFor();
  await house.startService();
  await page.getByText('Your line to the service is gone').waitFor({ state: 'detached' });
  await page.getByRole('button', { name: 'Show it' }).click();
  const missed = await page.locator('[data-test=missed-text]').innerText();
  expect(missed).toMatch(/k?loost$/);
  await clean(page, 'what did not arrive');
  expect(reader.heard.endsWith('k'), 'nothing by itself').toBe(true);
  // The picture is there again, so that one can see where it would go.
  await page.locator('[data-test=old]').waitFor({ state: 'detached' });
  await page.locator('[data-test=type-missed]').click();
  await until('what was meant', () => reader.heard.endsWith('loost'));
  await page.locator('[data-test=missed]').waitFor({ state: 'detached' });
  expect(problems).toEqual([]);
  reader.stop();
}, 240_000);

it('reads small print by a magnifier, drags a large picture, and works in a window of its own from anywhere in the console', async () => {
  const { page, problems, reader } = await working();
  await page.locator('[data-test=shelf-picture]').click();

  await page.locator('[data-test=lens-3]').click();
  const lens = page.locator('[data-test=lens]');
  await until('what is under the pointer, three times as large', async () => {
    // The stage gives room to the panel that opens: the pointer goes where that pixel is by then.
    const at = await placeOf(page, 520, 330);
    await page.mouse.move(at.x, at.y);
    if (!(await lens.count())) return false;
    const { width, height, pixels } = await canvasPixels(lens);
    const screen = dumpScreen(desktop.display, { x: 510, y: 320, width: 20, height: 20 });
    const near = (dx: number, dy: number) => pixels[(height / 2 + dy * 3) * width + width / 2 + dx * 3];
    return [-8, -4, 4, 8].every((d) => near(d, d) === screen[(10 + d) * 20 + 10 + d]);
  });
  await page.locator('[data-test=lens-1]').click();
  expect(await lens.count()).toBe(0);

  // Larger than its room: dragged while nobody works, with a button while somebody does.
  await page.getByRole('button', { name: '200%', exact: true }).click();
  const scrolled = () => page.locator('.room').evaluate((room) => [room.scrollLeft, room.scrollTop] as const);
  const drag = async () => {
    const box = await page.locator('.room').boundingBox();
    const [x, y] = [(box?.x ?? 0) + 300, (box?.y ?? 0) + 250];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x - 40, y - 30);
    await page.mouse.move(x - 120, y - 90);
    await page.mouse.up();
  };
  await page.getByRole('button', { name: 'Pause my input' }).click();
  const before = await scrolled();
  await drag();
  await until('it to be moved', async () => (await scrolled())[0] >= before[0] + 100);
  expect(await page.locator('[data-test=work]').getAttribute('aria-label'), 'dragging is not working').toBe('Work');
  await page.locator('[data-test=work]').click();
  await page.getByRole('button', { name: 'Pause my input' }).waitFor();
  reader.buttons = [];
  await page.locator('[data-test=move-picture]').click();
  const again = await scrolled();
  await drag();
  await until('it to be moved by hand', async () => (await scrolled())[0] >= again[0] + 100);
  expect(reader.buttons, 'nothing was pressed there').toEqual([]);
  await clean(page, 'a large picture');
  await page.getByRole('button', { name: 'Fit', exact: true }).click();

  // A window of its own: what is in it is not in the page, and it works wherever the page is.
  const opened = page.waitForEvent('popup');
  await page.locator('[data-test=own-window]').click();
  const own = await opened;
  await own.locator(STAGE).waitFor();
  await page.locator('[data-test=elsewhere]').waitFor();
  await own.getByRole('heading', { name: /Bettina Crole: / }).waitFor();
  await clean(own, 'a window of its own');
  await until('all of it', async () =>
    samePixels((await canvasPixels(own.locator(STAGE))).pixels, dumpScreen(desktop.display)),
  );
  await until('it to be seen', async () => (await shareOfGround(own)) > 0.5);
  await page.getByRole('link', { name: 'The porch' }).click();
  await page.getByRole('heading', { name: 'Waiting now' }).waitFor();
  await until('a letter from there', async () => {
    if (await own.getByRole('button', { name: 'Work', exact: true }).count())
      await own.getByRole('button', { name: 'Work', exact: true }).click();
    await clickAt(own, 640, 400);
    await own.keyboard.type('w');
    return reader.heard.endsWith('w');
  });
  const closed = own.waitForEvent('close');
  await page.goBack();
  await page.locator('[data-test=bring-back]').click();
  await closed;
  await page.locator(STAGE).waitFor();
  expect(problems).toEqual([]);
  reader.stop();
}, 240_000);
