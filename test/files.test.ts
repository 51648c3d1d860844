import { FileTransfers } from '@porch/client';
import {
  askAndAgree,
  beginByLink,
  clean,
  cleanAtBothSizes,
  houseWithPages,
  sizes,
  SlowLine,
  until,
} from '@porch/testkit';
import { createHash, randomBytes } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { expect, it, onTestFinished } from 'vitest';

/* Files and folders from the console and from the customer's page, as people move them: chosen, dropped, looked for. */
const { house, pages } = await houseWithPages();
const hashOf = (content: Uint8Array) => createHash('sha256').update(content).digest('hex');

async function drop(page: Page, files: readonly { name: string; text: string }[]): Promise<void> {
  const data = await page.evaluateHandle((all) => {
    const transfer = new DataTransfer();
    for (const { name, text } of all) transfer.items.add(new File([text], name));
    return transfer;
  }, files);
  for (const type of ['dragover', 'drop']) await page.dispatchEvent('main', type, { dataTransfer: data });
}

it('gives what is dropped and a whole folder, looks for a file and fetches it, waits and goes on after a reload', async () => {
  const { technician, link, id } = await house.sessionUnderWay();
  // Slow enough that a large file is under way for as long as somebody needs to press a button.
  const line = await SlowLine.open(house.url, { bytesPerSecond: 3_000_000, delayMs: 0 });
  onTestFinished(() => line.close());
  const { desktop, person } = await house.withDoorstep(link, { over: line.url });
  await until('Doorstep', () => technician.state.holderId);
  technician.close();
  mkdirSync(join(desktop.home, 'Kai'), { recursive: true });
  writeFileSync(join(desktop.home, 'Kai', 'sailings.csv'), '07:10;Tern Quay\n');
  const downloads = join(desktop.home, 'Downloads');
  const { page, problems } = await pages.signedIn(house);
  await page.goto(`${house.url}/console/session/${id}`);
  for (const permission of ['give-files', 'fetch-files']) {
    await page.locator(`[data-test=chip-${permission}] button:not([disabled])`).click();
    await person.answer(true, 1_100);
    await page.locator(`[data-test=chip-${permission}][data-standing=allowed]`).waitFor();
  }
  await page.locator('[data-test=shelf-files]').click();

  await drop(page, [
    { name: 'one.txt', text: 'one\n' },
    { name: 'two.txt', text: 'two\n' },
  ]);
  await person.press(/gives you 2 things/, 'yes');
  await until('both', () => ['one.txt', 'two.txt'].every((name) => readdirSync(downloads).includes(name)));
  const mine = join(house.folder, 'Quayprint 4.1');
  mkdirSync(join(mine, 'drivers'), { recursive: true });
  writeFileSync(join(mine, 'drivers', 'quay.bin'), randomBytes(80_000));
  await page.locator('[data-test=give-folder]').setInputFiles(mine);
  await person.press(/gives you a folder/, 'yes');
  await until('the folder', () => readdirSync(downloads).includes('Quayprint 4.1'));
  await page.getByText('folder, 1 file').waitFor();
  expect(hashOf(readFileSync(join(downloads, 'Quayprint 4.1', 'drivers', 'quay.bin')))).toBe(
    hashOf(readFileSync(join(mine, 'drivers', 'quay.bin'))),
  );

  await page.locator('[data-test=browse-files]').click();
  await page.getByText('Waits for their yes').waitFor();
  await person.press(/names of your files/, 'yes', { i: 0, of: 1 });
  await page.getByRole('button', { name: 'Open Kai' }).click();
  await page.getByText('sailings.csv').waitFor();
  await cleanAtBothSizes(page, 'names of both sides');
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Fetch sailings.csv' }).click();
  await person.press(/wants to fetch a file/, 'yes');
  const saved = join(house.folder, 'sailings.csv');
  await (await download).saveAs(saved);
  expect(readFileSync(saved, 'utf8')).toBe('07:10;Tern Quay\n');
  await page.locator('[data-test=theirs]').getByText('Waits').waitFor({ state: 'detached' });
  await page.getByRole('button', { name: 'Close', exact: true }).click();

  // A large one: it waits, the page is loaded anew, and what came of it does not come twice.
  const large = randomBytes(24_000_000);
  writeFileSync(join(desktop.home, 'sailings.db'), large);
  const fetchLarge = async () => {
    await page.getByLabel('Path of the file to fetch').fill('sailings.db');
    await page.getByRole('button', { name: 'Fetch', exact: true }).click();
    await person.press(/wants to fetch a file/, 'yes');
  };
  /** What the browser has of files that are not whole. */
  const keptBytes = () =>
    page.evaluate(async () => {
      const done = <T>(request: IDBRequest<T>) =>
        new Promise<T>((resolve, reject) => {
          request.onsuccess = () => resolve(request.result);
          request.onerror = () => reject(request.error ?? new Error('none'));
        });
      const store = (await done(indexedDB.open('porch-pieces'))).transaction('pieces').objectStore('pieces');
      const rows = (await done(store.getAll())) as { blob: Blob; offset: number }[];
      return rows.filter(({ blob }) => blob.size > 500_000).reduce((sum, { blob }) => sum + blob.size, 0);
    });
  await fetchLarge();
  await until('some of it', async () => (await keptBytes()) > 2_000_000);
  await page.getByRole('button', { name: 'Wait', exact: true }).click();
  await page.getByRole('button', { name: 'Go on', exact: true }).waitFor();
  await page.getByText('waits, by Pim').waitFor();
  await clean(page, 'a file that waits');
  await page.reload();
  await page.locator('[data-test=chip-fetch-files][data-standing=allowed]').waitFor();
  await page.locator('[data-test=shelf-files]').click();
  await page.getByText('did not arrive').first().waitFor();
  expect(await keptBytes(), 'it is there still').toBeGreaterThan(2_000_000);
  const second = page.waitForEvent('download');
  await fetchLarge();
  const whole = join(house.folder, 'sailings.db');
  await (await second).saveAs(whole);
  expect(hashOf(readFileSync(whole))).toBe(hashOf(large));
  expect(problems).toEqual([]);
});

it('lets a customer drop files on their page, see how far they are, let them wait and stop them', async () => {
  const rest = await house.signedIn();
  const started = await rest.start({});
  const customer = await pages.window(sizes.narrow);
  await beginByLink(customer.page, started.link);
  const technician = await house.technician(rest, started.session.id);
  const href = (await customer.page.getByRole('link', { name: 'Open Doorstep' }).getAttribute('href')) ?? '';
  const { person } = await house.withDoorstep(href.split('/join/')[1] ?? '');
  await until('Doorstep', () => technician.state.participants[technician.state.holderId ?? '']?.part === 'doorstep');
  await askAndAgree(technician, person, ['fetch-files']);
  await customer.page.getByText('drop files and folders anywhere').waitFor();
  const text = 'barcode-height = 24\n'.repeat(200_000);
  await drop(customer.page, [{ name: 'printer.log', text }]);
  const transfers = new FileTransfers(technician);
  const offered = await until('the offer', () => Object.values(technician.state.slices.files)[0]);
  const parts: Uint8Array[] = [];
  let isHeld = true;
  await transfers.accept(offered.id, {
    write: async (bytes) => {
      parts.push(bytes.slice());
      await until('it to go on', () => !isHeld || parts.length < 8);
    },
    finish: () => Promise.resolve(),
    discard: () => Promise.resolve(),
  });
  const stage = () => technician.state.slices.files[offered.id]?.stage;
  await customer.page.getByRole('button', { name: 'Wait', exact: true }).click();
  await customer.page.getByText('waits)').waitFor();
  await cleanAtBothSizes(customer.page, 'files that wait on the page');
  isHeld = false;
  await customer.page.getByRole('button', { name: 'Go on', exact: true }).click();
  await until('the file', () => stage() === 'arrived');
  expect(Buffer.concat(parts).toString()).toBe(text);

  const folder = join(house.folder, 'from the quay');
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, 'pass.txt'), 'pass\n');
  await customer.page.locator('[data-test=give-folder]').setInputFiles(folder);
  const second = await until('the folder', () =>
    Object.values(technician.state.slices.files).find(({ name }) => name === 'from the quay'),
  );
  expect(second).toMatchObject({ isFolder: true, count: 1, stage: 'offered' });
  await customer.page.getByRole('button', { name: 'Cancel' }).first().click();
  await until('it to be over', () => technician.state.slices.files[second.id]?.stage === 'cancelled');
  await customer.page.getByText('You offered the folder from the quay').waitFor();
  expect(customer.problems).toEqual([]);
  await transfers.close();
});
