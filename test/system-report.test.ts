import { atATerminal, cleanAtBothSizes, computerOf, houseWithPages, until } from '@porch/testkit';
import { installQuayprint, whyNoComputers } from '@porch/demo';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

const missing = whyNoComputers();
const { house, pages } = await houseWithPages({ hasTickets: true });

/* What changed since last time stands beside the session as soon as the report may be read, in the console and on the command line. */
describe.skipIf(missing)(`a system report beside a session${missing === undefined ? '' : ` (${missing})`}`, () => {
  it('is read as soon as it is allowed, says what stands out and what is other, is kept, saved, and read whole', async () => {
    const bettina = await computerOf(house);
    const { computer } = bettina;
    const packages = join(house.folder, 'packages');
    await installQuayprint(computer, packages, '3.8');

    // The first session at this computer, by somebody at a terminal.
    const { porch, person } = await atATerminal(house, bettina, {}, 'MF-201');
    expect((await porch('report')).code, 'before a yes').toBe(1);
    expect((await Promise.all([porch('ask', 'report'), person.answer(true, 1_100)]))[0].code).toBe(0);
    const printed = await porch('report');
    expect(printed.out).toMatch(/There is no earlier report of this device/);
    expect(printed.out).toMatch(/quayprint-driver 3\.8 was installed on/);
    expect(printed.out).toMatch(/Programs +Count/);
    expect((await porch('end')).code).toBe(0);
    expect((await porch('report', '--kept', '--csv')).out).toMatch(/^PART,WHAT,VALUE\r\nSystem,System,/);

    await installQuayprint(computer, packages, '4.1');
    await computer.read(
      'sh',
      '-c',
      `printf '[Service]\\nExecStart=/bin/false\\n' > /etc/systemd/system/gate-scanner.service; systemctl daemon-reload; systemctl start gate-scanner; true`,
    );

    const now = await house.sessionUnderWay('Pim Aldersey', 'MF-201');
    const again = await house.withDoorstep(now.link, { desktop: bettina });
    await until('Doorstep', () => now.technician.state.holderId);
    now.technician.close();
    const pim = await pages.signedIn(house);
    const { page } = pim;
    await page.goto(`${house.url}/console/session/${now.id}`);
    await page.locator('[data-test=look-up]').waitFor();
    await page.locator('[data-test=more]').click();
    await page.locator('[data-test=chip-read-system-report] button:not([disabled])').click();
    await until('the question', () => again.person.question());
    await again.person.answer(true);
    const found = page.locator('[data-test=report-found]');
    await found.locator('[data-test=differences]').getByText('quayprint-driver 3.8 → 4.1 on').waitFor();
    await found.getByText('Service gate-scanner has failed since').waitFor();
    await found.getByText(`Other than in the report of ${new Date().getDate()} `, { exact: false }).waitFor();
    await found.getByText('the service gate-scanner has failed').waitFor();
    // Who only says who they are has that person's sessions stand there: it is said.
    await page.locator('[data-test=unconfirmed]').waitFor();
    await cleanAtBothSizes(page, 'what stands out of a report');

    await page.locator('[data-test=whole-report]').click();
    await page.locator('[data-test=report-kept]').waitFor();
    await page.locator('[data-test=report]').getByText('tern-quay-04', { exact: true }).waitFor();
    await cleanAtBothSizes(page, 'a system report');
    const save = async (what: string) => {
      const saved = page.waitForEvent('download');
      await page.locator(`[data-test=${what}]`).click();
      const path = join(house.folder, what);
      await (await saved).saveAs(path);
      return readFileSync(path, 'utf8');
    };
    expect(JSON.parse(await save('report-json'))).toMatchObject({
      version: 1,
      parts: { system: { computer: 'tern-quay-04' } },
    });
    expect(await save('report-csv')).toMatch(/^PART,WHAT,VALUE\r\nSystem,System,/);
    // It has nothing of the page around it when it is printed.
    await page.emulateMedia({ media: 'print' });
    expect(await page.locator('#place-head').evaluate((at) => getComputedStyle(at).visibility)).toBe('hidden');
    expect(await page.locator('[data-test=report]').evaluate((at) => getComputedStyle(at).visibility)).toBe('visible');
    await page.emulateMedia({ media: 'screen' });

    // What was kept is read with the past session.
    await page.goto(`${house.url}/console/past-sessions/${now.id}`);
    await page.locator('[data-test=kept-report]').click();
    await page.locator('[data-test=kept-reports]').getByText('tern-quay-04', { exact: true }).waitFor();
    await cleanAtBothSizes(page, 'a past session with a system report');
    expect(pim.problems).toEqual([]);
  });
});
