import { whyNoComputers } from '@porch/demo';
import { askAndAgree, computerOf, dumpScreen, House, lookAt, until } from '@porch/testkit';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const missing = whyNoComputers();
/* Where a machine cannot hold them, these are left out: the reason stands in the name. */
describe.skipIf(missing)(`a stand-in computer${missing === undefined ? '' : ` (${missing})`}`, () => {
  let house: House;
  let bettina: Awaited<ReturnType<typeof computerOf>>;
  beforeAll(async () => {
    house = await House.open();
    bettina = await computerOf(house);
  });
  afterAll(() => house.close());

  it('is a whole computer: its own systemd with nothing failed, its own name, people and network', async () => {
    const { computer } = bettina;
    expect((await computer.read('systemctl', 'is-system-running', '--wait')).trim()).toBe('running');
    expect((await computer.read('hostname')).trim()).toBe('tern-quay-04');
    expect(await computer.read('loginctl', 'list-sessions', '--no-legend')).toMatch(/4161 bettina seat0/);
    // Nothing of the machine beneath: no interface but its own, none of our processes.
    expect(readdirSync(`${computer.root}/sys/class/net`)).toEqual(['lo']);
    expect(await computer.read('ps', '-eo', 'args')).not.toMatch(/vitest|service\.mjs|postgres/);
  });

  it('runs what its person starts in that session, as that person', async () => {
    const asked = bettina.starter.start('a question', 'sh', ['-c', 'id -un; cat /proc/self/cgroup; echo "$DISPLAY"']);
    let said = '';
    asked.stdout?.on('data', (part: Buffer) => (said += part.toString()));
    await new Promise((resolve) => asked.once('close', resolve));
    expect(said).toMatch(/^bettina\n/);
    expect(said).toMatch(/user-4161\.slice\/session-\w+\.scope/);
    expect(said).toMatch(/\n:0\n$/);
  });

  it('is seen through Doorstep as any desktop, pixel by pixel', async () => {
    const { technician, customer, link } = await house.sessionUnderWay();
    const { person } = await house.withDoorstep(link, { desktop: bettina });
    await until('Doorstep', () => technician.state.holderId);
    await askAndAgree(technician, person, ['view-screen']);
    const seen = lookAt(technician);
    await until('the picture', seen.isFresh);
    await until(
      'all of it',
      () => seen.isFresh() && Buffer.from(seen.pixels()).equals(Buffer.from(dumpScreen(bettina.display))),
    );
    await customer.command({ type: 'leaveSession', reason: 'done' });
  });

  it('restarts and comes back with a desktop, its files, and a number of its own for that start', async () => {
    const { computer, home } = bettina;
    const bootId = () => computer.read('cat', '/proc/sys/kernel/random/boot_id');
    const before = await bootId();
    await computer.read('sh', '-c', 'echo kept > /etc/of-this-computer; echo gone > /tmp/for-now');
    computer.atIt('systemctl', ['reboot']);
    await computer.isUp(computer.starts + 1);
    expect(await bootId()).not.toBe(before);
    expect(await computer.read('cat', '/etc/of-this-computer')).toBe('kept\n');
    expect(existsSync(`${computer.root}/tmp/for-now`)).toBe(false);
    expect(existsSync('/etc/of-this-computer')).toBe(false);
    expect(existsSync(join(home, 'Documents', 'printer-settings.conf'))).toBe(true);
    expect(await computer.read('cat', '/home/bettina/Documents/printer-settings.conf')).toMatch(/Quayprint/);
  });

  it('is dead at once when its plug is pulled, and starts when it is switched on', async () => {
    const { computer } = bettina;
    const root = computer.root;
    const starts = computer.starts;
    await computer.cutPower();
    expect(existsSync(`${root}/etc`)).toBe(false);
    expect(() => computer.root).toThrow(/is off/);
    computer.switchOn();
    await computer.isUp(starts + 1);
    expect(readFileSync(`${computer.root}/etc/of-this-computer`, 'utf8')).toBe('kept\n');
  });

  it('goes with whoever keeps it, however that is killed: nothing of it lives on', async () => {
    const { computer } = bettina;
    const init = /\/proc\/(\d+)\//.exec(`${computer.root}/`)?.[1] ?? '';
    expect(existsSync(`/proc/${init}`)).toBe(true);
    computer.keeper.kill('SIGKILL');
    await until('all of it to be gone', () => !existsSync(`/proc/${init}`));
  });
});
