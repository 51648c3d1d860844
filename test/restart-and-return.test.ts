import { PersonAtDesk, whyNoComputers } from '@porch/demo';
import { atATerminal, cleanAtBothSizes, computerOf, houseWithPages, InFront, setInForce, until } from '@porch/testkit';
import { expect, it } from 'vitest';

/* A restart from the stage and from a terminal: what it meets, the person's yes, the wait, and the return. */
const { house, pages } = await houseWithPages({ hasTickets: true });
const possible = it.skipIf(whyNoComputers());

possible('is wanted on the stage, waited for in sight, and the picture is there again without a press', async () => {
  const desktop = await computerOf(house);
  const session = await house.sessionUnderWay('Pim Aldersey', 'MF-201');
  const { person } = await house.withDoorstep(session.link, { desktop });
  await until('Doorstep', () => session.technician.state.holderId);
  session.technician.close();
  const { page } = await pages.signedIn(house);
  await page.goto(`${house.url}/console/session/${session.id}`);
  await page
    .getByRole('button', { name: /see the screen/i })
    .first()
    .click();
  await person.press(/see your screen/, 'yes');
  // Somebody switches to another desktop there, and back.
  const inFront = new InFront(desktop);
  await inFront.signInScreen();
  await page.locator('[data-test=is-behind]').getByText('switched to another desktop').waitFor();
  await cleanAtBothSizes(page, 'a desktop behind another one');
  await inFront.desktopOf('bettina');
  await page.locator('[data-test=is-behind]').waitFor({ state: 'detached' });
  await page.locator('[data-test=shelf-restart-and-return]').click();
  await page.locator('[data-test=ask-for-restart]').click();
  await person.press(/restart your computer/, 'yes');
  await page.locator('[data-test=restart-meets]').getByText('Nothing that is known').waitFor();
  await cleanAtBothSizes(page, 'a restart that is possible');
  await page.locator('[data-test=restart-go]').click();
  await page.locator('[data-test=restart-asked]').waitFor();
  await person.press(/wants to restart this computer/, 'no');
  await page.getByText('It did not go down: the customer said no').waitFor();

  const { starts } = desktop.computer;
  await page.locator('[data-test=restart-go]').click();
  await person.press(/wants to restart this computer/, 'yes');
  await page.locator('[data-test=away]').getByText('The session waits').waitFor();
  await desktop.computer.isUp(starts + 1);
  await page.locator('[data-test=away]').waitFor({ state: 'detached' });
  await page.locator('[data-test=comes-back]').getByText('2 permissions come back').waitFor();
  await page.locator('[data-test=restart-go]:not([disabled])').waitFor();

  // It does not come back by itself: what to try is said where the picture was.
  await setInForce(house, 'restart-late-minutes', '0.05');
  await setInForce(house, 'grace-seconds', '1');
  await desktop.computer.cutPower();
  await page.locator('[data-test=away-late]').waitFor();
  await cleanAtBothSizes(page, 'a computer that is away and late');
  desktop.computer.switchOn();
  await page.locator('[data-test=away]').waitFor({ state: 'detached' });
  await setInForce(house, 'restart-late-minutes', '--as-it-comes');
  await setInForce(house, 'grace-seconds', '--as-it-comes');
});

possible('is wanted, waited for and seen from a terminal', async () => {
  const desktop = await computerOf(house);
  const { porch, person } = await atATerminal(house, desktop);
  const asking = porch('ask', 'restart');
  await person.press(/restart your computer/, 'yes');
  await asking;
  const check = JSON.parse((await porch('restart-check', '--json')).out) as object;
  expect(check).toMatchObject({
    agreed: null,
    away: null,
    returns: 0,
    outlook: { computer: 'tern-quay-04', hits: [] },
  });
  expect((await porch('restart-check')).out).toMatch(/^Nothing that is known stands in the way\.\n {2}--how restart: /);
  expect(await porch('restart-computer', '--how', 'softly')).toMatchObject({ code: 2 });
  const unwanted = porch('restart-computer', '--how', 'sign-out');
  await person.press(/wants to sign you out/, 'no');
  expect(await unwanted).toMatchObject({ code: 1, err: expect.stringContaining('the customer said no') as unknown });
  const { starts } = desktop.computer;
  const restarting = porch('restart-computer', '--wait', '--json');
  await person.press(/wants to restart this computer/, 'yes');
  await desktop.computer.isUp(starts + 1);
  expect(JSON.parse((await restarting).out)).toMatchObject({
    ...{ isBack: true, returns: 1 },
    agreed: { permissions: ['restart-computer'] },
  });
  // Once more, without asking for anything anew.
  const then = await PersonAtDesk.at(desktop.display);
  const again = porch('restart-computer', '--how', 'bare');
  await then.press(/wants to restart this computer/, 'yes');
  expect((await again).out).toMatch(/It goes down\n$/);
  then.close();
});
