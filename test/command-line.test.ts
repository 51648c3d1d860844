import { spawn } from '@lydell/node-pty';
import { startDesktop } from '@porch/demo';
import { atATerminal, cleanAtBothSizes, houseWithPages, until } from '@porch/testkit';
import headless from '@xterm/headless';
import { existsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { expect, inject, it } from 'vitest';

const { house, pages } = await houseWithPages({ hasTickets: true });

/** What stands on the terminal of a page, as a person sees it. */
const screenOf = async (page: Page): Promise<string> =>
  (await page.locator('[data-test=line-screen] .xterm-rows').innerText()).replaceAll('\u00a0', ' ');
const shows = (page: Page, words: string | RegExp) =>
  until(`the terminal to show ${words}`, async () => {
    const text = await screenOf(page);
    return typeof words === 'string' ? text.includes(words) : words.test(text);
  });
const openLine = '[data-test=open-line]:not([disabled])';

it('is worked from the stage: opened once they said yes, searched, copied, there again after a reload, ended', async () => {
  const session = await house.sessionUnderWay('Pim Aldersey', 'MF-201');
  const there = await house.withDoorstep(session.link);
  await until('Doorstep', () => session.technician.state.holderId);
  session.technician.close();
  const { page } = await pages.signedIn(house);
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write'], { origin: house.url });
  await page.goto(`${house.url}/console/session/${session.id}`);
  await page.locator('[data-test=shelf-command-line]').click();
  await page.getByText('Nobody has allowed it yet.').waitFor();
  await cleanAtBothSizes(page, 'a command line that nobody allowed');
  await page.locator('[data-test=ask-for-line]').click();
  await until('the question', () => there.person.question());
  await there.person.answer(true);
  await page.locator('[data-test=line-folder] input').fill('~/nowhere');
  await page.locator(openLine).click();
  await page.locator('[role=alert]').getByText('It was not opened: there is no such folder.').waitFor();
  await page.locator('[data-test=line-folder] input').fill('');
  await page.locator(openLine).click();
  await page.locator('[data-test=line-screen] .xterm-rows').waitFor();
  const title = await page.title();
  await page.keyboard.type(
    'stty -echo; printf "\\033]0;owned\\007\\033]2;owned\\007\\033]8;;http://a.example\\007press\\033]8;;\\007 <b>me</b>\\n"; stty echo',
  );
  await page.keyboard.press('Enter');
  await shows(page, 'press <b>me</b>');
  expect(await page.title()).toBe(title);
  expect(await page.locator('[data-test=line-screen] a').count(), 'links').toBe(0);
  await cleanAtBothSizes(page, 'a command line');
  // As large as the place it has, at the computer, too.
  await page.keyboard.type('stty size');
  await page.locator('[data-test=line-screen] textarea').focus();
  await page.keyboard.type('; tput cols');
  await page.keyboard.press('Enter');
  await shows(page, /\n\d+ \d+\n/);
  const asked = 'echo the ferry leaves at noon; seq 1 400';
  await page.evaluate((text) => navigator.clipboard.writeText(text), asked);
  await page.keyboard.press('Control+Shift+V');
  await shows(page, asked);
  await page.keyboard.press('Enter');
  await shows(page, /\n400\n/);
  await page.keyboard.press('Control+Shift+F');
  await page.keyboard.type('leaves at noon');
  await page.locator('[data-test=find-next]').click();
  await shows(page, 'the ferry leaves at noon');
  await page.locator('[data-test=copy-selected]').click();
  await page.getByText('Copied.').waitFor();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe('leaves at noon');
  // More than can be typed is not typed at all.
  await page.evaluate(() => navigator.clipboard.writeText('x'.repeat(100_001)));
  await page.locator('[data-test=line-screen] textarea').focus();
  await page.keyboard.press('Control+Shift+V');
  await page.getByText('That is more than 100,000 characters').waitFor();
  // The key of the page leads out of it.
  await page.keyboard.press('F8');
  await page.locator('[data-test=finder]').waitFor();
  await page.keyboard.press('Escape');

  await page.reload();
  await page.locator('[data-test=shelf-command-line]').click();
  await shows(page, /\n400\n/);
  await page.locator('[data-test=line-screen] textarea').focus();
  await page.keyboard.type('touch made-after-it');
  await page.keyboard.press('Enter');
  await until('it to be done there', () => existsSync(join(there.desktop.home, 'made-after-it')));
  await page.locator('[data-test=end-line]').click();
  await page.locator('[data-test=line-ended]').getByText('Ended.').waitFor();
  // By the person there, in their own window.
  await page.locator(openLine).click();
  await page.locator('[data-test=line-screen] .xterm-rows').waitFor();
  const theirs = /Command line: Pim Aldersey/;
  const window = async () => until('their window', () => there.person.shown(theirs));
  await until('it to be as large as what it shows', async () => (await window()).height < 300);
  const { close } = await window();
  await there.person.click(close.x, close.y);
  await page.locator('[data-test=line-ended]').getByText('They closed it').waitFor();
  await page.getByText('Nobody has allowed it yet.').waitFor();
});

it('asks for the desk’s leave on a device whose label asks for care', async () => {
  const session = await house.sessionUnderWay('Pim Aldersey', 'MF-203');
  const there = await house.withDoorstep(session.link);
  await until('Doorstep', () => session.technician.state.holderId);
  session.technician.close();
  const { page } = await pages.signedIn(house);
  await page.goto(`${house.url}/console/session/${session.id}`);
  await page.locator('[data-test=shelf-command-line]').click();
  await page.locator('[data-test=ask-for-line]').click();
  await until('the question', () => there.person.question());
  await there.person.answer(true);
  await page.locator(openLine).click();
  await page.locator('[data-test=ask-leave]').click();
  await page.locator('[data-test=leave]').getByText('Waiting for a second').waitFor();
  const rune = await house.signedIn('Rune Takahashi');
  const [act] = await until('it to be seen', async () => {
    const { carefulActs } = await rune.porch();
    return carefulActs.length ? carefulActs : undefined;
  });
  expect(act).toMatchObject({ act: 'command-line/open', name: '~' });
  // Another folder is another act.
  await page.locator('[data-test=line-folder] input').fill('/etc');
  await page.locator(openLine).click();
  await page.locator('[data-test=leave]').getByText('the desk is asked first').waitFor();
  await page.locator('[data-test=line-folder] input').fill('');
  await rune.giveSecondYes(session.id, act?.actId ?? '', true);
  await page.locator(openLine).click();
  await page.locator('[data-test=line-screen] .xterm-rows').waitFor();
});

it('is the same in a terminal: nothing that they print gets there but letters and colours', async () => {
  const desktop = await startDesktop(house.processes, {
    ...{ name: 'a test', home: join(house.folder, 'home-cli'), programs: 'none' },
  });
  const { porch, person } = await atATerminal(house, desktop, {}, 'MF-201');
  const fromPipe = (...args: string[]) => house.porch('pim', ['shell', ...args], 'echo $((6*7)); pwd\nexit 3\n');
  expect((await fromPipe()).err, 'before a yes').toContain('NOT_GRANTED');
  expect((await Promise.all([porch('ask', 'command-line'), person.answer(true, 1_100)]))[0].code).toBe(0);
  const plain = await fromPipe();
  expect(plain.out).toContain(`42\n${desktop.home}\n`);
  expect(plain.code).toBe(1);
  expect(plain.err).toContain('It ended with code 3.');
  const json = await fromPipe('--json');
  expect(JSON.parse(json.out)).toMatchObject({ how: 'left', code: 3, folder: desktop.home });
  expect((await house.porch('pim', ['shell', 'nowhere'], '')).err).toContain('there is no such folder');
  expect((await house.porch('pim', ['shell'], 'sleep 1; echo here\n')).out).toMatch(/\nhere\n/);

  // At a real terminal, whose every byte is looked at.
  const evil =
    '\\033]0;owned\\007\\033]52;c;b3duZWQ=\\007\\033[31mred\\033[0m\\033[?1003h\\033P+q544e\\033\\\\ \\342\\200\\256tide\\n';
  writeFileSync(join(desktop.home, 'evil'), `printf '${evil}'\n`);
  const program = join(inject('root'), 'dist', 'porch.mjs');
  const env = { ...process.env, PORCH_HOME: join(house.folder, 'pim'), PORCH_RUN_MARK: house.folder.split('/').at(-1) };
  const seen = new headless.Terminal({ cols: 100, rows: 30, allowProposedApi: true });
  let [raw, code] = ['', -1];
  const pty = spawn(process.execPath, [program, 'shell'], { cols: 100, rows: 30, name: 'xterm-256color', env });
  pty.onData((text) => {
    raw += text;
    seen.write(text);
  });
  pty.onExit(({ exitCode }) => (code = exitCode));
  const text = () =>
    Array.from({ length: 30 }, (_, y) => seen.buffer.active.getLine(y)?.translateToString(true) ?? '').join('\n');
  const showsHere = (words: RegExp) =>
    until(`the terminal to show ${words}`, () => words.test(text())).catch((error: unknown) => {
      throw new Error(`${String(error)}; it shows:\n${text()}`);
    });
  await showsHere(/[#$]/);
  pty.write('. ./evil; stty size\r');
  await showsHere(/red +tide\n30 100\n/);
  expect(raw).not.toMatch(/owned|b3duZWQ|1003|544e|\u202e/);

  for (const [sequence] of raw.matchAll(/\u001b[^\u001b]{0,3}/g)) expect(sequence).toMatch(/^\u001b[[>=]/);
  const before = raw.length;
  pty.resize(90, 20);
  seen.resize(90, 20);
  await until('the new size to be taken', () => raw.slice(before).includes('\u001b[2J'));
  pty.write('clear; stty size\r');
  await showsHere(/20 90/);
  pty.write('yes\r');
  await showsHere(/y\ny\ny\ny/);
  pty.write('\x03');
  pty.write('clear; echo st""opped\r');
  await showsHere(/^stopped/m);
  for (let i = 0; i < 3; i++) pty.write('\x11');
  await until('it to end', () => code !== -1);
  expect(code).toBe(0);
  expect(raw.slice(raw.lastIndexOf('?1049l'))).toContain('Ended.');
});
