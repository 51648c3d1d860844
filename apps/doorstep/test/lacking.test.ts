import { startDesktop } from '@porch/demo';
import { whyNotWith, type Permission } from '@porch/core';
import { failure, House, until } from '@porch/testkit';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* A display that cannot do everything: what it can is offered, and of the rest both sides read why not. */
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

it.each([
  {
    lacks: 'XTEST',
    can: ['view-screen', 'give-files'],
    cannot: ['control-input', 'block-input'],
    says: 'be worked with',
  },
  {
    lacks: 'DAMAGE',
    can: ['give-files', 'control-input'],
    cannot: ['view-screen', 'take-screenshot'],
    says: 'be seen',
  },
  { lacks: 'Composite', can: ['view-screen', 'block-input'], cannot: ['cover-screen'], says: 'be covered' },
] as const)('a display without $lacks', async ({ lacks, can, cannot, says }) => {
  const { technician, link } = await house.sessionUnderWay();
  const home = join(house.folder, `home-without-${lacks}`);
  const desktop = await startDesktop(house.processes, {
    name: `a desktop without ${lacks}`,
    home,
    programs: 'none',
    lacks,
  });
  const doorstep = house.startDoorstep(desktop, `${house.url}/join/${link}`, 'pipe');
  let said = '';
  doorstep.stderr?.on('data', (part: Buffer) => (said += part.toString()));
  const holderId = await until('Doorstep', () => technician.state.holderId);
  const holder = technician.state.participants[holderId];
  if (!holder) throw new Error('nobody holds the consent');
  const whyNot = (permission: Permission) => whyNotWith(holder, permission);
  expect(can.map(whyNot)).toEqual(can.map(() => undefined));
  expect(cannot.map(whyNot)).toEqual(cannot.map(() => 'computer-cannot'));
  for (const permission of cannot)
    expect(
      await failure(
        technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: [permission] }),
      ),
    ).toBe('NOT_POSSIBLE_HERE');
  await until('it to be said at the computer', () => said.toUpperCase().includes(lacks.toUpperCase()));
  expect(said).toContain(`so it cannot ${says}`);
});
