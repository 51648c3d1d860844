import { markColour } from '@porch/client';
import { clean, dumpScreen, House, Pages, sizes, until } from '@porch/testkit';
import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* Drawing and both clipboards as a technician uses them, at a real desktop with a real editor. */
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

const STAGE = '[data-test=stage-canvas]';
const [WIDTH, HEIGHT] = [1000, 700];

async function stage(...permissions: string[]) {
  const session = await house.sessionUnderWay();
  session.technician.close();
  const { person, desktop } = await house.withDoorstep(session.link, {
    programs: 'editor',
    width: WIDTH,
    height: HEIGHT,
  });
  const { page, problems } = await pages.signedIn(house);
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.goto(`${house.url}/console/session/${session.id}`);
  const more = page.locator('[data-test=more]');
  for (const permission of ['view-screen', 'control-input', ...permissions]) {
    const chip = page.locator(`[data-test=chip-${permission}]`);
    if (permission !== 'view-screen' && !(await chip.isVisible())) await more.click();
    await chip.locator('button:not([disabled])').click();
    await person.answer(true, 1_100);
    await page.locator(`[data-test=chip-${permission}][data-standing=allowed]`).waitFor();
  }
  const box = await until('the stage', async () => {
    const found = await page.locator(STAGE).boundingBox();
    return found && found.width > 200 ? found : undefined;
  });
  const at = (x: number, y: number) => [box.x + (x * box.width) / WIDTH, box.y + (y * box.height) / HEIGHT] as const;
  return { ...session, person, desktop, page, problems, at };
}

it('draws on their screen as the hand moves, writes there, takes it away, and takes theirs away too', async () => {
  const w = await stage('draw-on-screen');
  const { page, desktop } = w;
  const tool = (name: string) => page.locator(`[data-test=tool-${name}]`);
  const pixel = (x: number, y: number) => dumpScreen(desktop.display, { x, y, width: 1, height: 1 })[0];
  await page.locator('[data-test=shelf-drawing]').click();
  await clean(page, 'the drawing drawer');
  // The panel makes the stage narrower.
  const box = await until('the stage', async () => (await page.locator(STAGE).boundingBox()) ?? undefined);
  const at = (x: number, y: number) => [box.x + (x * box.width) / WIDTH, box.y + (y * box.height) / HEIGHT] as const;
  await tool('pen').click();
  await page.mouse.move(...at(700, 500));
  await page.mouse.down();
  await page.mouse.move(...at(900, 500), { steps: 12 });
  const isInk = (x: number, y: number) =>
    [0, 1, 2, 3].some((s) => pixel(x, y) === parseInt(markColour(s).slice(1), 16));
  await until('the line while the hand still draws', () => isInk(800, 500));
  await page.mouse.up();
  await until('the picture to have it', async () => (await page.locator('[data-test=mark]').count()) === 0);
  await tool('text').click();
  await page.mouse.click(...at(700, 560));
  await page.locator('[data-test=write-on-screen]').fill('Press here');
  await clean(page, 'the drawing drawer with words being written');
  await page.keyboard.press('Enter');
  await until('the words', () => isInk(703, 563));
  await page.setViewportSize(sizes.narrow);
  await clean(page, 'the drawing drawer, narrow');
  await page.setViewportSize(sizes.wide);
  await page.locator('[data-test=unmark-last]').click();
  await until('the words to be gone', () => !isInk(703, 563));
  const bar = await until('the bar', () => w.person.bar());
  await w.person.click(bar.draw.x, bar.draw.y);
  await until('their line', async () => {
    await w.person.drag([700, 740, 780, 820].map((x) => ({ x, y: 620 })));
    return isInk(760, 620);
  });
  await page.locator('[data-test=unmark-everybodys]').click();
  await until('all to be gone', () => !isInk(760, 620) && !isInk(800, 500));
  expect(w.problems).toEqual([]);
});

it('pastes there what was copied here and here what was copied there, with the keys people use, and moves nothing else', async () => {
  const w = await stage('give-clipboard', 'read-clipboard');
  const { page, desktop } = w;
  const here = () => page.evaluate(() => navigator.clipboard.readText());
  const copyHere = (text: string) => page.evaluate((words) => navigator.clipboard.writeText(words), text);
  const saved = () => readFileSync(desktop.settingsFile, 'utf8');
  const keys = page.locator('[data-test=stage-keys]');
  await copyHere('# Grüße: barcode-height = 24 ✓\n');
  await page.mouse.click(...w.at(300, 300));
  await until('the keyboard to be there', () =>
    keys.evaluate((field) => document.activeElement === field).catch(() => false),
  );
  await page.keyboard.press('Control+Home');
  await page.keyboard.press('Control+v');
  await until('it in the editor’s file', async () => {
    await page.keyboard.press('Control+s');
    return saved().startsWith('# Grüße: barcode-height = 24 ✓\n');
  });
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Control+c');
  await until('it on the clipboard here', async () => (await here()) === saved());

  // What the customer copies is named, and nothing of it comes without a press.
  const child = spawn('xclip', ['-selection', 'clipboard', '-i'], {
    env: { ...process.env, DISPLAY: desktop.display },
    stdio: ['pipe', 'ignore', 'ignore'],
  });
  child.stdin.end('what the customer copied');
  await page.locator('[data-test=shelf-clipboard]').click();
  await page.locator('[data-test=clip-text]').getByText('24 B').waitFor();
  expect(await here(), 'named, and not brought').toBe(saved());
  await clean(page, 'the clipboard drawer');
  await page.setViewportSize(sizes.narrow);
  await clean(page, 'the clipboard drawer, narrow');
  await page.setViewportSize(sizes.wide);
  await page.locator('[data-test=clip-take-text]').click();
  await until('it here', async () => (await here()) === 'what the customer copied');

  // A large one is a choice before anything of it moves.
  await copyHere('x'.repeat(300_000));
  await page.mouse.click(...w.at(300, 300));
  await keys.focus();
  await page.keyboard.press('Control+v');
  await page.locator('[data-test=clip-large]').waitFor();
  await clean(page, 'the choice before a large one moves');
  await page.locator('[data-test=clip-large-go]').click();
  await page.locator('[data-test=clip-word]').getByText('It can be pasted there.').waitFor();
  // Typed where pasting is refused, and stopped at once.
  await copyHere(`typed: ${'日本'.repeat(4_000)}`);
  await page.locator('[data-test=clip-type]').click();
  await page.locator('[data-test=clip-stop-typing]').click();
  await page.locator('[data-test=clip-typing]').waitFor({ state: 'detached' });
  await page.getByRole('button', { name: 'Work', exact: true }).waitFor();
  await until('four acts in the customer’s copy', () => {
    const moved = w.customer.entries.flatMap(({ event }) => (event.type === 'clipboard/moved' ? [event] : []));
    return moved.filter(({ direction }) => direction === 'given').length === 2 && moved.length >= 4;
  });
  expect(w.problems).toEqual([]);
}, 120_000);

it('asks what was planned before as soon as somebody is there, and the plan can be read and taken back', async () => {
  const session = await house.sessionUnderWay();
  session.technician.close();
  const { page, problems } = await pages.signedIn(house);
  await page.goto(`${house.url}/console/session/${session.id}`);
  await page.locator('[data-test=plan-control-input]').click();
  await page.locator('[data-test=plan-fetch-files]').click();
  const checked = async (one: string) =>
    (await page.locator(`[data-test=plan-${one}]`).getAttribute('aria-checked')) === 'true';
  await until('what it needs to be planned, too', () => checked('view-screen'));
  await clean(page, 'what is planned');
  await page.setViewportSize(sizes.narrow);
  await clean(page, 'what is planned, narrow');
  await page.setViewportSize(sizes.wide);
  await page.locator('[data-test=plan-nothing]').click();
  await until('nothing to be planned', async () => !(await checked('view-screen')));
  await page.locator('[data-test="plan-Look and work"]').click();
  await until('the bundle', () => checked('control-input'));
  const { person } = await house.withDoorstep(session.link);
  await person.questionSaying(/mouse and keyboard/);
  await person.answer(true, 1_100);
  for (const permission of ['view-screen', 'control-input'])
    await page.locator(`[data-test=chip-${permission}][data-standing=allowed]`).waitFor();
  expect(problems).toEqual([]);
});
