import { tellToCustomer } from '@porch/core';
import { hangBellThere, whyNoComputers } from '@porch/demo';
import { atATerminal, cleanAtBothSizes, computerOf, houseWithPages, ScreensBeside, until } from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import { expect, it } from 'vitest';

/* Who is signed in at their computer, and asking one of them in: in the console, and at a terminal. */
const { house, pages } = await houseWithPages({ hasTickets: true });
const possible = it.skipIf(whyNoComputers());
const ASKED = /asked into a support session/;
const ALLOWS = /ask somebody else there to come in/;

possible('stands on the stage as people sign in; who says yes comes in with the technician’s yes', async () => {
  const desktop = await computerOf(house, 'bettina', 'none', ['samir']);
  const session = await house.sessionUnderWay('Pim Aldersey', 'MF-201');
  const { person } = await house.withDoorstep(session.link, { desktop });
  const { technician } = session;
  await until('Doorstep', () => technician.state.holderId);
  technician.close();
  const { page } = await pages.signedIn(house);
  await page.goto(`${house.url}/console/session/${session.id}`);
  await page.locator('[data-test=shelf-desktops]').click();
  await page.locator('[data-test=ask-for-desktops]').click();
  await person.press(ALLOWS, 'yes');
  const row = (account: string) => page.locator(`[data-test=signed-in] [data-account=${account}]`);
  await row('bettina').getByText('desktop, in front').waitFor();
  const screens = new ScreensBeside(desktop);
  const samir = await screens.signIn('samir');
  await row('samir').getByText('has no bell at other desktops').waitFor();
  await cleanAtBothSizes(page, 'who is signed in');

  await hangBellThere(desktop.computer, house.url);
  // Somebody comes to the front, and the list is looked at anew.
  await page.reload();
  await page.locator('[data-test=shelf-desktops]').click();
  await row('samir').locator('[data-test=ring]').click();
  await row('samir').getByText('samir is being asked.').waitFor();
  await cleanAtBothSizes(page, 'somebody is being asked');
  await samir.person.press(ASKED, 'yes');
  await page.locator('[data-test=rung]').getByText('They come in with your yes.').waitFor();
  await page.locator('[data-test=change-over-yes]').click();
  await page.getByText('They have not allowed it.').waitFor();
  const told = tellToCustomer(session.customer.entries, ledger.en).map(({ sentence }) => sentence);
  expect(told).toContain('samir said yes at their desktop');
  screens.close();
});

possible('is listed at a terminal, and waits there for the answer', async () => {
  const desktop = await computerOf(house, 'bettina', 'none', ['samir']);
  const { porch, person } = await atATerminal(house, desktop);
  expect((await porch('desktops')).out).toBe('They have not allowed it.\n');
  expect(await porch('ring', 'samir')).toMatchObject({ code: 1 });
  const asking = porch('ask', 'desktops');
  await person.press(ALLOWS, 'yes');
  await asking;
  expect((await porch('desktops')).out).toMatch(
    /^\d+ {2}bettina {2}desktop, in front, since .*\n {2}This is the desktop of this session\.\n$/,
  );
  const no = await porch('ring', 'samir');
  expect([no.code, no.err]).toEqual([1, expect.stringContaining('Nobody called samir is signed in there')]);

  await hangBellThere(desktop.computer, house.url);
  const screens = new ScreensBeside(desktop);
  const samir = await screens.signIn('samir');
  await until('both', async () => (await porch('desktops')).out.split('\n').length === 4);
  const saysNo = porch('ring', 'samir');
  await samir.person.press(ASKED, 'no');
  expect(await saysNo).toMatchObject({ code: 1, err: expect.stringContaining('samir said no.') as string });
  // Nobody is asked twice in a moment.
  const rings = until('somebody to be asked', async () => {
    const rung = await porch('ring', 'samir', '--json');
    return rung.err.includes('being asked there already') ? undefined : rung;
  });
  await samir.person.press(ASKED, 'yes');
  expect(JSON.parse((await rings).out)).toMatchObject({ account: 'samir', how: 'came' });
  await until('them at the door', async () => (await porch('change-over', 'yes')).code === 0);
  await until('their place', async () => (await porch('desktops')).out === 'They have not allowed it.\n');
  screens.close();
});
