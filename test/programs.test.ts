import { atATerminal, cleanAtBothSizes, computerOf, houseWithPages, until } from '@porch/testkit';
import { whyNoComputers } from '@porch/demo';
import { chownSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

const missing = whyNoComputers();
const { house, pages } = await houseWithPages({ hasTickets: true });

const THEIRS = 4161;
/** Two services of Bettina's own, one of which needs the other. */
function addServices(home: string): void {
  const folders = ['.config', '.config/systemd', '.config/systemd/user'].map((path) => join(home, path));
  for (const folder of folders) {
    mkdirSync(folder, { recursive: true });
    chownSync(folder, THEIRS, THEIRS);
  }
  const add = (name: string, needs: string) =>
    writeFileSync(
      join(home, '.config/systemd/user', `${name}.service`),
      `[Unit]\nDescription=${name} of quay 4\n${needs}\n[Service]\nExecStart=/usr/bin/sleep 6262\n[Install]\nWantedBy=default.target\n`,
    );
  add('gate-scanner', '');
  add('gate-board', 'Requires=gate-scanner.service\nAfter=gate-scanner.service');
}

describe.skipIf(missing)(`looking closer beside a session${missing === undefined ? '' : ` (${missing})`}`, () => {
  it('lists, finds, orders, says what hangs on a service, and stops it, in the console and on the command line', async () => {
    const bettina = await computerOf(house);
    addServices(bettina.home);
    const own = (...command: string[]) =>
      bettina.computer.read('runuser', '-u', 'bettina', '--', 'env', `XDG_RUNTIME_DIR=/run/user/${THEIRS}`, ...command);
    await own('systemctl', '--user', 'daemon-reload');
    await own('systemctl', '--user', 'start', 'gate-board');
    const states = async () =>
      (await own('sh', '-c', 'systemctl --user is-active gate-scanner gate-board; true')).trim().split('\n');

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
    const sleeping = (await own('sh', '-c', 'setsid sleep 7373 >/dev/null 2>&1 & echo $!')).trim();
    expect((await porch('end-program', sleeping)).out).toMatch(/sleep: done/);
    expect((await porch('end-program', '1')).err).toMatch(/would stop with it/);
    expect((await porch('end-program', '999999')).err).toMatch(/No program there has the number/);
    expect((await porch('end')).code).toBe(0);

    // In the console.
    await own('systemctl', '--user', 'start', 'gate-board');
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
