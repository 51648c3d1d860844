import type { LiveConnection } from '@porch/client';
import { askAndAgree, cleanAtBothSizes, houseWithPages, until } from '@porch/testkit';
import type { PersonAtDesk } from '@porch/demo';
import { expect, it } from 'vitest';

/* Coming back to a device from the console: found, knocked at, let in by the words, seen, and given up for good. */
const { house, pages } = await houseWithPages({ hasTickets: true });

/** Bettina lets the desk come back, without being asked each time. */
async function keepDevice(technician: LiveConnection, person: PersonAtDesk): Promise<string> {
  await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['keep-device'] });
  await person.press(/connect to this computer later/, 'yes', { i: 3, of: 4 });
  await person.press(/For how long/, 'yes');
  const words = (await person.press(/This passphrase/, 'yes')).split('\n')[1] ?? '';
  await until('the device', async () => (await house.query('SELECT 1 FROM "device"')).length > 0);
  return words;
}

it('goes from the list of devices to the picture with the words alone, and leaves nothing there in the end', async () => {
  const { technician, link } = await house.sessionUnderWay('Rune Takahashi', 'MF-201');
  const { person, doorstep } = await house.withDoorstep(link);
  await until('Doorstep', () => technician.state.holderId);
  await askAndAgree(technician, person, ['give-files']);
  const words = await keepDevice(technician, person);
  await technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });

  const pim = await pages.signedIn(house);
  await pim.page.getByRole('link', { name: 'Devices' }).click();
  const row = pim.page.locator('[data-test=device-tern-quay-04]');
  // Live: it was off a moment ago, and says by itself that somebody is there.
  await row.getByText('on, somebody is there').waitFor();
  await cleanAtBothSizes(pim.page, 'the devices');
  await pim.page.getByRole('button', { name: 'Visit tern-quay-04' }).click();
  const door = pim.page.locator('[data-test=door-says]');
  await door.getByText('Type the passphrase that was chosen there').waitFor();
  await cleanAtBothSizes(pim.page, 'the door of a device');
  await pim.page.getByLabel('The passphrase of the device').fill('otter lamp harbour tern');
  await pim.page.getByRole('button', { name: 'Go in' }).click();
  await door.getByText('4 tries are left').waitFor();
  await pim.page.getByLabel('The passphrase of the device').fill(words);
  await pim.page.getByRole('button', { name: 'Go in' }).click();
  // Nobody is asked there: that is how it was made. What it covers is allowed at once.
  await pim.page.locator('[data-test=chip-view-screen] button:not([disabled])').click();
  await pim.page.locator('[data-test=chip-view-screen][data-standing=allowed]').waitFor();
  await pim.page.locator('[data-test=stage-canvas]').waitFor();
  expect(await person.question()).toBeUndefined();
  // The rest of the catalogue waits under More, with the reason where something cannot be.
  await pim.page.locator('[data-test=more]').click();
  await pim.page.getByText('Not possible here, and why').click();
  await pim.page
    .getByText(/^Not possible here \(the Doorstep they run does not do this\): .*\brecord the session\b/)
    .waitFor();
  await cleanAtBothSizes(pim.page, 'a visit with all permissions open');
  await pim.page.locator('[data-test=end]').click();
  await pim.page.locator('[data-test=end-now]').click();
  await pim.page.getByRole('link', { name: 'Devices' }).click();
  await row.getByText('by Pim Aldersey').waitFor();
  await pim.page.getByRole('button', { name: 'Give up tern-quay-04' }).click();
  await pim.page.getByRole('button', { name: 'Give up tern-quay-04 for good' }).click();
  await row.waitFor({ state: 'detached' });
  await until('Doorstep to go', () => doorstep.exitCode !== null);
  expect(pim.problems).toEqual([]);
});
