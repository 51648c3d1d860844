import { atATerminal, cleanAtBothSizes, houseWithPages, markedProcesses, runbookInUse, until } from '@porch/testkit';
import { startDesktop } from '@porch/demo';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, inject, it } from 'vitest';

const { house, pages } = await houseWithPages({ hasTickets: true });
const demoPack = join(inject('root'), 'demo', 'runbook');

it('is written, reviewed and approved in the console, and shows what somebody puts into it as it is', async () => {
  const pim = (await pages.signedIn(house)).page;
  await pim.goto(`${house.url}/console/runbook`);
  await pim.getByText('The runbook is empty').waitFor();
  await cleanAtBothSizes(pim, 'an empty runbook');
  await pim.goto(`${house.url}/console/runbook/new`);
  await pim.locator('#action-title').fill('Paint <img src=x onerror=alert(1)> the board');
  await pim.locator('#action-text').fill('echo "$GIVEN_COLOUR"\n');
  await pim.locator('[data-test=add-parameter]').click();
  await cleanAtBothSizes(pim, 'writing an action');
  const parameter = pim.locator('[data-test=parameter]');
  await parameter.locator('select').selectOption('choice');
  const field = (label: string) => parameter.getByLabel(label, { exact: true });
  await field('Name').fill('COLOUR');
  await field('What it is asked as').fill('Colour');
  await pim.locator('[data-test=action-save]').click();
  await pim.locator('[role=alert]').getByText('a choice needs something to choose from').waitFor();
  await field('To choose from, with commas between').fill('blue, red');
  await pim.locator('[data-test=action-save]').click();
  await pim.locator('[data-test=action-body]').waitFor();
  await pim.getByText('Somebody else has to review it').waitFor();
  const address = new URL(pim.url()).pathname;

  const rune = (await pages.signedIn(house, 'Rune Takahashi')).page;
  await rune.goto(`${house.url}${address}`);
  expect(await rune.locator('h1').textContent()).toBe('Paint <img src=x onerror=alert(1)> the board');
  await rune.locator('[data-test=review]').click();
  await rune.getByText('A lead has to approve it').waitFor();
  const odalys = (await pages.signedIn(house, 'Odalys Brandt')).page;
  await odalys.goto(`${house.url}${address}`);
  await odalys.locator('[data-test=approve]').click();
  await odalys.locator('[data-test=approve]').waitFor({ state: 'detached' });
  await cleanAtBothSizes(odalys, 'an action');
  expect(await odalys.locator('[data-test=versions]').textContent()).toContain('approved by Odalys Brandt');
  await odalys.goto(`${house.url}/console/runbook`);
  await odalys
    .locator('[data-test=pack-files]')
    .setInputFiles([join(demoPack, 'barcode-height.action'), join(demoPack, 'paper-path-check.action')]);
  await odalys.locator('[data-test=brought]').getByText('barcode-height.action: brought in as a draft').waitFor();
  await odalys.locator('[data-test=action-state]').selectOption('draft');
  await until('the drafts alone', async () => (await odalys.locator('[data-test=action]').count()) === 2);
  await cleanAtBothSizes(odalys, 'the runbook');
});

it('is run from the stage: what would be done is seen first, what it prints comes as it prints, and a stop ends it', async () => {
  const inUse = await runbookInUse(house);
  const marker = join(house.folder, 'marker');
  await inUse({
    ...{ name: 'say-and-wait', title: 'Say it and wait' },
    body: `echo "$GIVEN_WORDS <b>bold</b>"; touch '${marker}'; sleep 600`,
    parameters: [{ name: 'WORDS', label: 'Words', kind: 'text' }],
  });
  await inUse({
    ...{
      name: 'ask-first',
      title: 'Ask first',
      kind: 'instruction',
      body: '- [ ] Ask for the light.\n- [ ] Ask for a test page.',
    },
  });
  const session = await house.sessionUnderWay('Pim Aldersey', 'MF-201');
  const there = await house.withDoorstep(session.link);
  await until('Doorstep', () => session.technician.state.holderId);
  session.technician.close();
  const { page } = await pages.signedIn(house);
  await page.goto(`${house.url}/console/session/${session.id}`);
  await page.locator('[data-test=shelf-runbook]').click();
  await page.locator('[data-test=find-action] input').fill('say it');
  await page.locator('[data-test=action-say-and-wait]').click();
  await page.locator('[data-test=ask-to-run]').click();
  await until('the question', () => there.person.question());
  await there.person.answer(true);
  await page.locator('[data-test=look-at-it]').click();
  await page.getByText('Something has to stand here').waitFor();
  await page.locator('#value-WORDS').fill('The ferry is late');
  await page.locator('[data-test=look-at-it]').click();
  await page.locator('[data-test=what-runs]').getByText('sleep 600').waitFor();
  expect(await page.locator('[data-test=given]').textContent()).toBe('Words: The ferry is late');
  expect(existsSync(marker)).toBe(false);
  await cleanAtBothSizes(page, 'what would be run');
  await page.locator('[data-test=run-action]').click();
  await page.locator('[data-test=printed]').getByText('The ferry is late <b>bold</b>').waitFor();
  await cleanAtBothSizes(page, 'what is run');
  await page.locator('[data-test=stop-action]').click();
  await page.locator('[data-test=run-standing]').getByText('Stopped.').waitFor();
  // What nobody of the desk's program knows of is read by whoever takes the session over.
  await page.locator('[data-test=all-actions]').click();
  await page.locator('[data-test=find-action] input').fill('ask first');
  await page.locator('[data-test=action-ask-first]').click();
  await page.locator('[data-test=begin-steps]').click();
  await page.locator('[data-test=step-1]:not([disabled])').check();
  await page.getByText('1 of 2 steps done').waitFor();
  await cleanAtBothSizes(page, 'an instruction');
});

it('works from the command line: packs in and out, looked at, run, ticked off', async () => {
  const desktop = await startDesktop(house.processes, {
    ...{ name: 'a test', home: join(house.folder, 'home-cli'), programs: 'none' },
  });
  const { porch, person } = await atATerminal(house, desktop, {}, 'MF-201');
  expect((await porch('pack-in', demoPack, '--whose', 'team')).out).toMatch(
    /Nobody signed this pack[^]*barcode-height.action +drafted/,
  );
  expect((await porch('pack-in', join(house.folder, 'nowhere'))).code).toBe(2);
  const [rune, odalys] = await Promise.all(['Rune Takahashi', 'Odalys Brandt'].map((name) => house.signedIn(name)));
  for (const name of ['barcode-height', 'paper-path-check', 'watch-print-queues']) {
    const { items } = (await rune?.runbookActions({ name, state: 'draft' })) ?? { items: [] };
    const id = items.find(({ scope }) => scope === 'team')?.id ?? '';
    await rune?.reviewRunbookAction(id);
    await odalys?.approveRunbookAction(id);
  }
  expect((await porch('runbook', 'barcode', '--state', 'approved')).out).toMatch(
    /barcode-height +In use +Script +Printing/,
  );
  expect((await porch('action', 'barcode-height')).out).toMatch(
    /HEIGHT {2}Height in millimetres \(Number; At first: 24\)/,
  );
  expect((await porch('run-action', 'barcode-height')).code, 'before a yes').toBe(1);
  expect((await Promise.all([porch('ask', 'runbook'), person.answer(true, 1_100)]))[0].code).toBe(0);
  const look = await porch('run-action', 'barcode-height', '--give', 'HEIGHT=25', '--only-look');
  expect(look.out).toMatch(
    /Run: \/usr\/bin\/python3 script[^]*Height in millimetres: 25[^]*barcode-height[^]*Nothing is saved before/,
  );
  const settings = () => readFileSync(desktop.settingsFile, 'utf8');
  expect(settings()).not.toContain('barcode-height = 25');
  expect((await porch('run-action', 'barcode-height', '--give', 'HEIGHT=25')).out).toMatch(
    /is 25 mm high from now on\.\nDone\./,
  );
  expect(settings()).toContain('barcode-height = 25');
  expect((await porch('run-action', 'barcode-height', '--give', 'HEIGHT=high')).err).toMatch(
    /HEIGHT: This is not a number/,
  );
  expect((await porch('run-action', 'barcode-height', '--give', 'WIDTH=2')).err).toMatch(
    /WIDTH: This is not asked for/,
  );
  expect((await porch('run-action', 'no-such')).err).toMatch(/porch runbook lists them/);
  expect((await porch('run-action', 'paper-path-check')).err).toMatch(/is an instruction/);
  expect((await porch('tick-step', 'paper-path-check', '2')).out).toMatch(/1 of 5 steps done/);
  expect((await porch('stop-action')).out).toMatch(/No action runs/);
  const out = join(house.folder, 'pack');
  mkdirSync(out);
  expect((await porch('pack-out', out)).out).toMatch(/actions saved in/);
  expect(readdirSync(out)).toEqual(
    expect.arrayContaining(['pack.sums', 'pack.sig', 'pack.pem', 'barcode-height.action']),
  );
  writeFileSync(join(out, 'barcode-height.action'), 'changed');
  const changed = await porch('pack-in', out);
  expect([changed.code, changed.err]).toEqual([1, expect.stringMatching(/not as it was signed/)]);

  // Whoever waits for its end is not left waiting once the person there has pressed Stop.
  const running = porch('run-action', 'watch-print-queues');
  await until('it runs', () => markedProcesses(house.folder).length > 0);
  await person.pressStop();
  expect(await running).toMatchObject({ code: 1, err: expect.stringContaining('not allowed any longer') as unknown });
});
