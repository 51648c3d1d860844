import { atATerminal, cleanAtBothSizes, computerOf, houseWithPages, Themselves, until } from '@porch/testkit';
import { whyNoComputers } from '@porch/demo';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

const missing = whyNoComputers();
const { house, pages } = await houseWithPages({ hasTickets: true });

describe.skipIf(missing)(`looking closer beside a session${missing === undefined ? '' : ` (${missing})`}`, () => {
  it('lists, finds, orders, says what hangs on a service, and stops it, in the console and on the command line', async () => {
    const bettina = await computerOf(house);
    const own = new Themselves(bettina);
    await own.services({
      'gate-scanner': 'Description=gate-scanner of quay 4',
      'gate-board': 'Description=gate-board of quay 4\nRequires=gate-scanner.service\nAfter=gate-scanner.service',
    });
    const states = () => own.areActive('gate-scanner', 'gate-board');

    // At a terminal.
    const { porch, person } = await atATerminal(house, bettina, {}, 'MF-201');
    expect((await porch('look-closer')).code, 'before a yes').toBe(1);
    const agree = async (name: string) =>
      expect((await Promise.all([porch('ask', name), person.answer(true, 1_100)]))[0].code).toBe(0);
    await agree('report');
    await agree('programs');
    const services = await porch('look-closer', 'services', '--match', 'quay 4');
    expect(services.out).toMatch(/^NAME +STATE +BEGINS +WHOSE +WHAT IT IS/);
    expect(services.out).toMatch(/gate-board +running +by hand +theirs +gate-board of quay 4/);
    expect(services.out).toMatch(/2 of \d+/);
    const busiest = JSON.parse(
      (await porch('look-closer', '--by', 'memoryBytes', '--down', '--most', '1', '--json')).out,
    ) as {
      items: { memoryBytes: number }[];
    };
    expect(busiest.items.length).toBe(1);
    expect((await porch('look-closer', 'ports', '--by', 'weight')).code).toBe(2);
    expect((await porch('change-service', 'stop', 'gate-scanner', '--own')).code, 'before that yes').toBe(1);
    await agree('change');
    const hanging = await porch('change-service', 'stop', 'gate-scanner', '--own');
    expect(hanging.code).toBe(1);
    expect(hanging.out + hanging.err).toMatch(/gate-board[^]*nothing was done/);
    expect(await states()).toEqual(['active', 'active']);
    expect((await porch('change-service', 'stop', 'gate-scanner', '--own', '--yes')).out).toMatch(/gate-scanner: done/);
    expect(await states()).toEqual(['inactive', 'inactive']);
    const sleeping = (await own.run('sh', '-c', 'setsid sleep 7373 >/dev/null 2>&1 & echo $!')).trim();
    expect((await porch('end-program', sleeping)).out).toMatch(/sleep: done/);
    expect((await porch('end-program', '1')).err).toMatch(/would stop with it/);
    expect((await porch('end-program', '999999')).err).toMatch(/No program there has the number/);
    expect((await porch('end')).code).toBe(0);

    // In the console.
    await own.start('gate-board');
    const now = await house.sessionUnderWay('Pim Aldersey', 'MF-201');
    const again = await house.withDoorstep(now.link, { desktop: bettina });
    await until('Doorstep', () => now.technician.state.holderId);
    now.technician.close();
    const pim = await pages.signedIn(house);
    const { page } = pim;
    await page.goto(`${house.url}/console/session/${now.id}`);
    await page.locator('[data-test=more]').click();
    for (const permission of ['read-system-report', 'inspect-programs']) {
      await page.locator(`[data-test=chip-${permission}] button:not([disabled])`).click();
      await until('the question', () => again.person.question());
      await again.person.answer(true);
      await page.locator(`[data-test=chip-${permission}][data-standing=allowed]`).waitFor();
    }
    await page.locator('[data-test=more]').click();
    await page.locator('[data-test=shelf-programs]').click();
    await page.locator('[data-test=list-services]').click();
    const rows = page.locator('[data-test=program-rows] .rows [role=row]');
    await page.locator('[data-test=find-program] input').fill('quay 4');
    await rows.nth(1).waitFor();
    expect(await rows.count()).toBe(2);
    await page.locator('[data-test=order-name]').click();
    await page.locator('[data-test=program-rows]').focus();
    await page.keyboard.press('End');
    const chosen = page.locator('[data-test=program-chosen]');
    await chosen.getByText('gate-scanner of quay 4').waitFor();
    await cleanAtBothSizes(page, 'a list of services');
    const saving = page.waitForEvent('download');
    await page.locator('[data-test=programs-csv]').click();
    const path = join(house.folder, 'services.csv');
    await (await saving).saveAs(path);
    expect(readFileSync(path, 'utf8')).toMatch(/^Name,State,Begins,Whose,What it is\r\ngate-board,running/);

    await page.locator('[data-test=ask-change]').click();
    await until('the question', () => again.person.question());
    await again.person.answer(true);
    await page.locator('[data-test=act-restart]').waitFor();
    await page.locator('[data-test=act-stop]').click();
    await page.locator('[data-test=hit]').getByText('gate-board').waitFor();
    await cleanAtBothSizes(page, 'what hangs on a service');
    await page.locator('[data-test=leave-it]').click();
    expect(await states()).toEqual(['active', 'active']);
    await page.locator('[data-test=act-stop]').click();
    await page.locator('[data-test=do-it]').click();
    await page.locator('[data-test=acted]').getByText('gate-scanner: done.').waitFor();
    expect(await states()).toEqual(['inactive', 'inactive']);
    // Nobody loads anything: the row itself says so, and offers what there is to do now.
    await page.locator('[data-test=act-start]').waitFor();

    // Taken back, nothing of it is shown any longer.
    await page.locator('[data-test=chip-inspect-programs] button').click();
    await page.locator('[data-test=programs]').waitFor({ state: 'detached' });
    expect(pim.problems).toEqual([]);
  });
});
