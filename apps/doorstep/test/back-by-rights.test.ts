import { TechnicianRights, TechnicianSafePoints } from '@porch/client';
import { tellToTechnicians } from '@porch/core';
import { installQuayprint, offerQuayprint, whyNoComputers } from '@porch/demo';
import { askAndAgree, computerOf, House, until } from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const BETTINAS = 'tern-quay-gull-7';
const DRIVER = { id: 'quayprint-driver:all', from: '4.1', to: '3.8' };
const GATE = 'computer/gate-labels.service';
let house: House;
const packages = mkdtempSync(join(tmpdir(), 'quayprint-'));
beforeAll(async () => (house = await House.open({ hasTickets: true })));
afterAll(async () => {
  await house.close();
  rmSync(packages, { recursive: true });
});

describe.skipIf(whyNoComputers())('going back to a safe point by administrator rights', () => {
  it('puts packages and services of the computer back, once they are raised, and only what was signed', async () => {
    const desktop = await computerOf(house);
    const { computer } = desktop;
    await installQuayprint(computer, packages, '3.8');
    offerQuayprint(computer, packages);
    await computer.read('apt-get', 'update');
    const sh = (script: string) => computer.read('sh', '-c', script);
    const unit = '[Service]\\nExecStart=/bin/sleep 4171\\n[Install]\\nWantedBy=multi-user.target\\n';
    await sh(`printf '${unit}' > /etc/systemd/system/gate-labels.service && systemctl daemon-reload`);
    await sh('systemctl enable --now gate-labels');
    // Asked of the computer itself: what is installed, what runs, what begins by itself.
    const state = () =>
      sh(
        'dpkg-query -W -f "\\${db:Status-Abbrev}\\${Package}:\\${Version}\\n" | sort; systemctl is-active gate-labels; systemctl is-enabled gate-labels; true',
      );
    const before = await state();

    const { technician, link, rest } = await house.sessionUnderWay();
    const { person } = await house.withDoorstep(link, { desktop });
    await until('Doorstep', () => technician.state.holderId);
    await askAndAgree(technician, person, ['make-safe-points']);
    const points = new TechnicianSafePoints(technician);
    const { id } = await points.make('before the driver', { paths: [], services: [GATE], hasPackages: true });
    const wrongFix = async () => {
      await sh('apt-get install --yes quayprint-driver=4.1 && systemctl disable --now gate-labels');
      expect(await state()).not.toBe(before);
    };
    await wrongFix();

    // Without rights it is said what would need them, and nothing of it is done.
    const back = { packages: [DRIVER], services: [{ target: GATE, runs: true, begins: 'by-itself' }] } as const;
    const needed = { packages: [...back.packages], services: [...back.services] };
    expect(await points.rightsFor(id)).toEqual({ back: needed, isRaised: false });
    const broken = await state();
    const left = await points.goBack(id, { byRights: needed });
    expect(left.left.map(({ name, why }) => [name, why])).toEqual([
      ['gate-labels', 'no-rights'],
      ['quayprint-driver', 'no-rights'],
    ]);
    expect(await state()).toBe(broken);

    await askAndAgree(technician, person, ['raise-rights']);
    const rights = new TechnicianRights(technician, rest);
    const wanted = rights.wanted('the driver goes back');
    const raising = rights.raise(wanted, 'password', { installed: undefined });
    await person.questionSaying(/Password of an administrator/);
    await person.type(BETTINAS);
    await person.press(/Password of an administrator/, 'yes');
    await raising;
    const isRaised = () => technician.state.slices['administrator-rights'][wanted.raiseId]?.standing === 'raised';
    await until('the ledger', isRaised);
    // Not what was looked at, or nothing that was ever here: it stays as it is.
    for (const [to, why] of [
      ['3.9', 'it is other than it was a moment ago'],
      [undefined, 'it is other than it was a moment ago'],
    ] as const) {
      const other = { packages: [{ id: DRIVER.id, from: '4.1', ...(to ? { to } : {}) }], services: [] };
      expect(await points.goBack(id, { byRights: other })).toMatchObject({ why, leftCount: 2 });
    }
    expect(await state()).toBe(broken);
    const now = await points.rightsFor(id);
    expect(now).toEqual({ back: needed, isRaised: true });
    expect(await points.goBack(id, { byRights: now.back })).toEqual({ count: 2, left: [], leftCount: 0 });
    expect(await state()).toBe(before);
    const told = () => tellToTechnicians(technician.entries, ledger.en).map(({ sentence }) => sentence);
    expect(told().join('\n')).toContain('quayprint-driver 4.1 → 3.8, gate-labels');

    // What hangs on it would have to go with it: nothing is done, and it is said.
    await wrongFix();
    await sh(
      'cd /tmp && mkdir -p tray/DEBIAN && printf "Package: quayprint-tray\\nVersion: 1.2\\nArchitecture: all\\nDepends: quayprint-driver (>= 4.0)\\nMaintainer: Quayprint <packages@quayprint.example>\\nDescription: Its tray\\n" > tray/DEBIAN/control && dpkg-deb --root-owner-group -b tray tray.deb && dpkg -i tray.deb',
    );
    const { id: later } = (await points.list()).find(({ name }) => name === 'before the driver') ?? { id: '' };
    const both = await points.rightsFor(later);
    expect(both.back.packages.map(({ id: one, to }) => [one, to])).toEqual([
      ['quayprint-driver:all', '3.8'],
      ['quayprint-tray:all', undefined],
    ]);
    expect(await points.goBack(later, { byRights: both.back })).toMatchObject({ leftCount: 0 });
    expect(await state()).toBe(before);
    points.close();
    rights.close();
    technician.close();
  });
});
