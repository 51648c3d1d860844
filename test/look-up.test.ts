import { cleanAtBothSizes, houseWithPages, until } from '@porch/testkit';
import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, inject, it } from 'vitest';

/* What is known before anything is touched: sessions of before and knowledge notes, in the console and on the command line. */
const { house, pages } = await houseWithPages({ hasTickets: true });
const asFile = (name: string, buffer: Buffer) => ({ name, mimeType: 'text/markdown', buffer });
const folder = join(inject('root'), 'demo', 'knowledge');

it('is written by one, reviewed by another, brought in and taken out in the console; nothing in a text is obeyed', async () => {
  const pim = await pages.signedIn(house);
  const { page } = pim;
  await page.getByRole('link', { name: 'Knowledge' }).click();
  await page.getByText('There are no notes yet').waitFor();
  await cleanAtBothSizes(page, 'no knowledge notes');
  await page
    .locator('[data-test=note-files]')
    .setInputFiles([
      ...readdirSync(folder).map((name) => asFile(name, readFileSync(join(folder, name)))),
      asFile('Wrong.md', Buffer.from('nothing')),
    ]);
  await page.getByText('Wrong.md: not brought in').waitFor();
  await page.getByText('barcode-cut-in-half.en.md: brought in as a draft').waitFor();
  await until(
    'all of them',
    async () => (await page.locator('[data-test=note]').count()) === readdirSync(folder).length,
  );
  await cleanAtBothSizes(page, 'knowledge notes');

  await page.getByRole('link', { name: 'Write a note' }).click();
  await page.locator('#note-title').fill('A note with traps');
  const traps = [
    '<script>window.caught = 1</script>',
    '<img src=x onerror="window.caught = 1">',
    '![p](https://far.example/p.png)',
  ];
  await page
    .locator('#note-text')
    .fill([...traps, '[l](javascript:window.caught=1)', '[good](https://desk.marrowick.example/)'].join('\n\n'));
  await cleanAtBothSizes(page, 'a knowledge note being written');
  await page.locator('[data-test=note-save]').click();
  await page.locator('[data-test=edit]').waitFor();
  const shown = page.locator('.note-text');
  expect(await shown.locator('script, img, [onerror]').count()).toBe(0);
  const links = await shown
    .locator('a')
    .evaluateAll((all) => all.map((a) => [a.getAttribute('href'), a.getAttribute('rel')]));
  expect(links.map(([href]) => href)).not.toContain('javascript:window.caught=1');
  for (const [, rel] of links) expect(rel).toBe('noopener noreferrer');
  expect(await page.evaluate(() => 'caught' in window)).toBe(false);
  // Whoever wrote it is not asked to review it.
  expect(await page.locator('[data-test=review]').count()).toBe(0);

  const rune = await pages.signedIn(house, 'Rune Takahashi');
  await rune.page.goto(page.url());
  await rune.page.locator('[data-test=review]').waitFor();
  await cleanAtBothSizes(rune.page, 'a draft to review');
  await rune.page.locator('[data-test=review]').click();
  await rune.page.getByText('reviewed by Rune Takahashi').waitFor();
  await page.reload();
  await page.locator('[data-test=withdraw]').click();
  await page.locator('[data-test=really-withdraw]').click();
  await page.waitForURL('**/knowledge');
  await page.locator('[data-test=note]').first().waitFor();
  expect(await page.getByText('A note with traps').count()).toBe(0);
  expect([...pim.problems, ...rune.problems]).toEqual([]);
});

it('stands beside a session from its first second, unasked, and no customer gets any of it', async () => {
  const rune = await house.signedIn('Rune Takahashi');
  const drafts = (await rune.knowledgeNotes({ state: 'draft', limit: 200 })).items;
  for (const { id } of drafts) await rune.reviewKnowledgeNote(id);
  const before = await house.sessionUnderWay('Rune Takahashi', 'MF-201');
  await before.technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
  await before.technician.command({
    type: 'logOutcome',
    outcome: 'worked-around',
    minutes: 5,
    note: 'Old driver put back.',
  });

  const pim = await pages.signedIn(house);
  const { page } = pim;
  await page.locator('#start-field').fill('MF-201');
  await page.keyboard.press('Enter');
  await page.locator('[data-test=earlier]').getByText('Old driver put back.').waitFor();
  // It was somebody else's: told in short, and not to be opened.
  expect(await page.locator('[data-test=earlier] a').count()).toBe(0);
  const first = page.locator('[data-test=found-note]').first();
  await first.getByRole('button', { name: 'Boarding-pass printer cuts the barcode in half' }).click();
  await first.getByText('barcode-height').waitFor();
  await cleanAtBothSizes(page, 'what is looked up beside a session');
  await page.locator('[data-test=look-up-search] input').fill('almanac');
  await page.keyboard.press('Enter');
  await page.getByText('Found by your words').waitFor();
  expect(await page.locator('[data-test=found-note]').count()).toBe(1);
  // It can be folded away, and comes up by its letter.
  await page.locator('[data-test=shelf-look-up]').click();
  expect(await page.locator('[data-test=look-up]').count()).toBe(0);
  expect(pim.problems).toEqual([]);
  // No customer gets any of it: it is not in the ledger, and nothing else goes over their lines.
  const id = page.url().split('/').at(-1) ?? '';
  const told = JSON.stringify((await (await house.signedIn()).ledger(id)).rows);
  expect(told).not.toMatch(/barcode-height|Old driver|almanac/);

  await page.goto(`${house.url}/console/knowledge`);
  const saved = page.waitForEvent('download');
  await page.locator('[data-test=note-export]').click();
  const archive = join(house.folder, 'saved.tar');
  await (await saved).saveAs(archive);
  const names = execFileSync('tar', ['-tf', archive], { encoding: 'utf8' }).trim().split('\n');
  expect(names.filter((name) => name.endsWith('.md')).sort()).toEqual(readdirSync(folder));
});

it('is told on the command line, in files that go in as they came out', async () => {
  const porch = (...args: string[]) => house.porch('pim', args, 'harbour-lamp-41');
  await porch('sign-in', '--service', house.url, '--email', 'pim.aldersey@marrowick.example', '--password-stdin');
  await porch('start', 'MF-201');
  expect((await porch('earlier')).out).toMatch(
    /Rune Takahashi {2}same customer, same device {2}Worked around\n {2}Old driver put back\./,
  );
  expect((await porch('knowledge', '-s', 'MF-201', '--csv')).out).toMatch(/^NAME,LANGUAGE.*\r\nbarcode-cut-in-half,en/);
  expect((await porch('note', 'barcode-cut-in-half', '--language', 'nb')).out).toMatch(/^Boardingkortskriveren/);
  expect(await porch('note', 'nothing')).toMatchObject({ code: 5 });
  const out = join(house.folder, 'notes');
  expect((await porch('notes-out', out)).code).toBe(0);
  expect(readdirSync(out)).toEqual(readdirSync(folder));
  const all = readdirSync(out).map((name) => join(out, name));
  const results = JSON.parse((await porch('notes-in', '--json', ...all)).out) as { items: { result: string }[] };
  expect(results.items.map(({ result }) => result)).toEqual(all.map(() => 'unchanged'));
  const wrong = join(house.folder, 'wrong');
  mkdirSync(wrong);
  writeFileSync(join(wrong, 'a-fault.en.md'), 'no front matter');
  expect(await porch('notes-in', join(wrong, 'a-fault.en.md'))).toMatchObject({ code: 1 });
  expect(await porch('notes-in', join(wrong, 'not-there.en.md'))).toMatchObject({ code: 2 });
});
