import { whyNoComputers } from '@porch/demo';
import { atATerminal, cleanAtBothSizes, computerOf, houseWithPages, pdfSaying, until } from '@porch/testkit';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, it } from 'vitest';

/* What is printed at their computer comes out in the console, and at a terminal. */
const { house, pages } = await houseWithPages({ hasTickets: true });
const possible = it.skipIf(whyNoComputers());
const NAME = 'Pim_Aldersey_support_session';

/** Somebody prints on the printer of the session, by the computer's own print system. */
function print({ computer, home }: Awaited<ReturnType<typeof computerOf>>, title: string, text: string) {
  mkdirSync(join(home, 'Documents'), { recursive: true });
  const file = join(home, 'Documents', 'to-print.pdf');
  writeFileSync(file, pdfSaying(text));
  const as = ['--reuid', 'bettina', '--regid', 'bettina', '--clear-groups', '--'];
  return computer.read('setpriv', ...as, 'lp', '-d', NAME, '-t', title, file);
}
const isPdf = (path: string) => readFileSync(path).subarray(0, 5).toString() === '%PDF-';

possible(
  'is asked for on the stage, comes out by itself, and is saved as a PDF; after a reload it is there again',
  async () => {
    const desktop = await computerOf(house);
    const session = await house.sessionUnderWay('Pim Aldersey', 'MF-201');
    const { person } = await house.withDoorstep(session.link, { desktop });
    await until('Doorstep', () => session.technician.state.holderId);
    session.technician.close();
    const { page } = await pages.signedIn(house);
    await page.goto(`${house.url}/console/session/${session.id}`);
    await page.locator('[data-test=shelf-prints]').click();
    await page.locator('[data-test=ask-for-prints]').click();
    await person.press(/receive your printouts/, 'yes');
    await page
      .locator('[data-test=printer]')
      .getByText('choose the printer “Pim Aldersey (support session)”')
      .waitFor();
    await page.getByText('Nothing was printed yet.').waitFor();
    await print(desktop, 'Boarding pass', 'Puffin, Tern Quay 08:40, PF-2231');
    const row = page.locator('[data-test=printout]').filter({ hasText: 'Boarding pass' });
    await row.getByText('Here, and whole.').waitFor();
    await cleanAtBothSizes(page, 'a printout that has arrived');
    const downloading = page.waitForEvent('download');
    await row.locator('[data-test=save-printout]').click();
    const download = await downloading;
    expect(download.suggestedFilename()).toBe('Boarding pass.pdf');
    const saved = join(mkdtempSync(join(tmpdir(), 'porch-prints-')), 'saved.pdf');
    await download.saveAs(saved);
    expect(isPdf(saved)).toBe(true);

    // Markup in a title is letters.
    await print(desktop, '<img src=x onerror=alert(1)>', 'a title with markup');
    await page.locator('[data-test=printout]').getByText('<img src=x onerror=alert(1)>').waitFor();

    await page.reload();
    await page.locator('[data-test=shelf-prints]').click();
    await page
      .locator('[data-test=printout]')
      .filter({ hasText: 'Boarding pass' })
      .getByText('Here, and whole.')
      .waitFor();

    // Taken back: what is here stays here, and nothing more comes.
    const { standings } = session.customer.state;
    const participantId = Object.keys(standings).find((id) => standings[id]?.['take-prints']?.name === 'allowed') ?? '';
    const taking = { type: 'withdrawPermission', permission: 'take-prints', why: 'taken back on the page' } as const;
    await session.customer.command({ ...taking, participantId });
    await page.getByText('They have not allowed it.').waitFor();
    expect(await page.locator('[data-test=save-printout]').count()).toBe(2);
    await expect(print(desktop, 'Too late', 'x')).rejects.toThrow();
  },
);

possible('is waited for, listed and saved from a terminal', async () => {
  const desktop = await computerOf(house);
  const { porch, person } = await atATerminal(house, desktop);
  expect((await porch('prints')).out).toBe('They have not allowed it.\n');
  const asking = porch('ask', 'prints');
  await person.press(/receive your printouts/, 'yes');
  await asking;
  expect((await porch('prints')).out).toBe(
    'There, choose the printer “Pim Aldersey (support session)”.\nNothing was printed yet.\n',
  );
  expect(await porch('prints', '--wait', 'soon')).toMatchObject({ code: 2 });
  expect(await porch('save-print')).toMatchObject({ code: 1 });
  const waiting = porch('prints', '--wait', '60', '--json');
  await print(desktop, 'Boarding pass', 'PF-2231');
  const listed = JSON.parse((await waiting).out) as { documents: unknown[] };
  expect(listed.documents).toMatchObject([{ number: 1, title: 'Boarding pass', isHere: true, trouble: null }]);
  expect((await porch('prints')).out).toMatch(/\n1 {2}Boarding pass {2}\d+(\.\d)? kB {2}Here, and whole\.\n$/);
  const file = join(mkdtempSync(join(tmpdir(), 'porch-prints-')), 'pass.pdf');
  expect((await porch('save-print', '-o', file)).out).toBe(`“Boarding pass” is in ${file}.\n`);
  expect([existsSync(file), isPdf(file)]).toEqual([true, true]);
  expect(await porch('save-print', '7')).toMatchObject({ code: 1 });
});
