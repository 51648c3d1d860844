import { TechnicianReports, type ComingReport } from '@porch/client';
import { tellToCustomer, type SystemReport } from '@porch/core';
import { dateQuayprint, installQuayprint, mondayBefore, whyNoComputers } from '@porch/demo';
import { askAndAgree, computerOf, failure, House, until } from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import { chmodSync, existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const missing = whyNoComputers();
/* What a computer says of itself, compared with that computer, looked into from outside. */
describe.skipIf(missing)(`a system report${missing === undefined ? '' : ` (${missing})`}`, () => {
  let house: House;
  let bettina: Awaited<ReturnType<typeof computerOf>>;
  const monday = mondayBefore(new Date());
  beforeAll(async () => {
    house = await House.open({ hasTickets: true });
    bettina = await computerOf(house);
    const { computer } = bettina;
    const packages = join(house.folder, 'packages');
    await installQuayprint(computer, packages, '3.8');
    await installQuayprint(computer, packages, '4.1');
    await dateQuayprint(computer, { '3.8': new Date(monday.getTime() - 14 * 86_400_000), '4.1': monday });
    // Something of it fails, and something in the person's own path pretends to be a tool of the system.
    writeFileSync(`${computer.root}/etc/systemd/system/gate-scanner.service`, '[Service]\nExecStart=/bin/false\n');
    await computer.read('systemctl', 'daemon-reload');
    await computer.read('sh', '-c', 'systemctl start gate-scanner; true');
    const trap = join(bettina.home, 'bin');
    mkdirSync(trap);
    for (const name of ['systemctl', 'loginctl', 'apt-get']) {
      writeFileSync(join(trap, name), `#!/bin/sh\ntouch ${bettina.home}/caught\n`);
      chmodSync(join(trap, name), 0o755);
    }
  });
  afterAll(() => house.close());

  async function under(ticketRef = 'MF-201') {
    const session = await house.sessionUnderWay('Pim Aldersey', ticketRef);
    const desktop = { ...bettina, camera: { env: { PATH: `${bettina.home}/bin:/usr/bin:/bin` }, devices: '/nowhere' } };
    const { person, doorstep } = await house.withDoorstep(session.link, { desktop: desktop as never });
    await until('Doorstep', () => session.technician.state.holderId);
    return { ...session, person, doorstep, reports: new TechnicianReports(session.technician) };
  }

  it('says what is so: its name, packages, log, services and room; quick parts first, the slow one last', async () => {
    const { technician, customer, rest, id, person, reports } = await under();
    const order: string[] = [];
    await askAndAgree(technician, person, ['read-system-report']);
    const { id: reportId, ...report } = await reports.read((coming: ComingReport) => {
      for (const part of Object.keys(coming.parts)) if (!order.includes(part)) order.push(part);
    });
    const { parts } = report;
    expect(Math.abs(report.takenAtMs - Date.now())).toBeLessThan(60_000);
    const { computer } = bettina;
    expect(order[0]).toBe('system');
    expect(order.at(-1)).toBe('updates');
    expect(parts.system?.computer).toBe('tern-quay-04');
    expect(parts.system?.kernel).toBe((await computer.read('uname', '-r')).trim());
    const installed = (await computer.read('dpkg-query', '-W', '-f', '${db:Status-Status}\\n')).match(/^installed$/gm);
    expect(parts.programs?.count).toBe(installed?.length);
    const [last] = parts.programs?.changes ?? [];
    expect(last).toMatchObject({ name: 'quayprint-driver', from: '3.8', to: '4.1' });
    expect(new Date(last?.atMs ?? 0).toDateString()).toBe(monday.toDateString());
    expect(await computer.read('grep', ' upgrade ', '/var/log/dpkg.log')).toMatch(
      /upgrade quayprint-driver:all 3\.8 4\.1/,
    );
    expect(parts.services?.failed).toEqual(['gate-scanner']);
    expect(parts.storage?.volumes.map(({ at }) => at)).toContain('/');
    expect(parts.network?.desk).toMatchObject({ isReached: true });
    expect(parts.display?.displays).toEqual([{ name: 'screen', width: 1280, height: 800 }]);
    expect(parts.security?.signedIn).toBe(1);
    expect(report.missing).toEqual({});
    // Nobody's name, and no trap was stepped into.
    expect(JSON.stringify(report)).not.toMatch(/bettina|4161/i);
    expect(existsSync(join(bettina.home, 'caught'))).toBe(false);

    await until('the ledger to say so', () => technician.state.slices['system-report'][reportId]);
    const kept = await rest.keepSystemReport(id, reportId, report);
    expect(await rest.systemReports(id)).toEqual([kept]);
    expect(await rest.keepSystemReport(id, reportId, report)).toEqual(kept);
    expect((await rest.systemReport(id, reportId)) as SystemReport).toEqual(report);
    await until('the customer to have it all', () => customer.entries.length === technician.entries.length);
    const told = tellToCustomer(customer.entries, ledger.en).map(({ sentence }) => sentence);
    expect(told).toContain('Pim Aldersey read a report about your computer');
    expect(told).toContain('Pim Aldersey put the report about your computer into the records of this session');
    reports.close();
    await technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
  });

  it('is found again from the next session at the same device, and what is other since is known', async () => {
    const { technician, rest, id, person, reports } = await under();
    const found = await rest.earlierSystemReport(id);
    expect((found?.report as SystemReport).parts.system?.computer).toBe('tern-quay-04');
    await askAndAgree(technician, person, ['read-system-report']);
    // One at a time, and not again at once.
    const [first, second] = await Promise.allSettled([reports.read(() => undefined), reports.read(() => undefined)]);
    expect([first.status, second.status]).toEqual(['fulfilled', 'rejected']);
    reports.close();
    await technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
  });

  it('ends with the permission, what was started for it too, and nothing more is sent', async () => {
    const { technician, person, reports } = await under();
    await askAndAgree(technician, person, ['read-system-report']);
    const coming: ComingReport[] = [];
    const reading = failure(reports.read((report) => coming.push(report)));
    const { computer } = bettina;
    await until('the slow part to run', async () => /apt-get/.test(await computer.read('ps', '-eo', 'args')));
    await technician.command({
      type: 'withdrawPermission',
      participantId: technician.participantId,
      permission: 'read-system-report',
      why: 'given back',
    });
    await until('it to be dead', async () => !/apt-get/.test(await computer.read('ps', '-eo', 'args')));
    expect(coming.at(-1)?.parts.updates).toBeUndefined();
    reports.close();
    expect(await reading).toBe('NOT_PRESENT');
    await technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
  });
});

describe('a system report in the records', () => {
  it('is taken only from whoever had it read, only if it is one, and goes with the person', async () => {
    const house = await House.open();
    try {
      const { technician, rest, id, link } = await house.sessionUnderWay();
      const doorstep = await house.bareDoorstep({ link });
      await until('Doorstep', () => technician.state.holderId);
      const reportId = crypto.randomUUID();
      const report: SystemReport = { version: 1, takenAtMs: 1, parts: { battery: { isThere: false } }, missing: {} };
      const keep = (who: typeof rest, value: unknown, name = reportId) =>
        failure(who.keepSystemReport(id, name, value as SystemReport));
      expect(await keep(rest, report)).toBe('NOT_GRANTED');
      await doorstep.command({
        ...{ type: 'system-report/tellRead', reportId, participantId: technician.participantId, fact: 1 },
      });
      for (const hostile of [
        {},
        { ...report, version: 2 },
        { ...report, parts: { battery: { isThere: 'x' } } },
        { ...report, parts: { battery: { isThere: false, note: '<script>' } } },
        { ...report, parts: { services: { running: 1, failed: Array.from({ length: 10_000 }, () => 'x') } } },
        { ...report, parts: { services: { running: 1, failed: ['x'.repeat(5_000)] } } },
        { ...report, more: 'x' },
      ])
        expect(await keep(rest, hostile)).toBe('INVALID_REQUEST');
      expect(await keep(rest, { ...report, more: 'x'.repeat(2_000_000) })).toBe('MESSAGE_TOO_LARGE');
      const odalys = await house.signedIn('Odalys Brandt');
      expect(await keep(odalys, report)).toBe('NOT_GRANTED');
      expect(await keep(await house.signedIn('Noor Castellane'), report)).toBe('SESSION_NOT_FOUND');
      expect(await keep(rest, report)).toBe('no failure');
      expect(await failure(rest.systemReport(id, crypto.randomUUID()))).toBe('REPORT_NOT_FOUND');
      const [sealed] = await house.query<{ sealed: Buffer }>('SELECT "sealed" FROM "system_report"');
      expect(sealed?.sealed.toString('latin1')).not.toMatch(/battery/);
      await technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
      await odalys.erase(id, 'asked for');
      expect(await odalys.systemReports(id)).toEqual([]);
    } finally {
      await house.close();
    }
  });
});
