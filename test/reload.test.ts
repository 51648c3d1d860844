import { clean, houseWithPages, until } from '@porch/testkit';
import { expect, it } from 'vitest';

const { house, pages } = await houseWithPages();

it('a technician who reloads their page keeps what was allowed; a duplicated tab has nothing; ending is asked once', async () => {
  const pim = await pages.signedIn(house);
  await pim.page.keyboard.press('Enter');
  const code = ((await pim.page.locator('[data-test=code]').textContent()) ?? '').replace(/\s/g, '');
  const customer = await house.customer({ code });
  await customer.live.command({ type: 'introduceCustomer', name: 'Bettina Crole', address: '' });
  await customer.live.command({ type: 'answerCall', answer: 'i-called' });
  await customer.live.command({ type: 'acceptSession', noticeVersion: '2026-11' });
  const link = (await customer.rest.door()).doorstepLink.split('/').at(-1) ?? '';
  const { person, doorstep, desktop } = await house.withDoorstep(link);
  const chip = (standing: string) =>
    pim.page.locator(`[data-test=chip-view-screen][data-standing=${standing}]`).waitFor();
  await pim.page.locator('[data-test=chip-view-screen] button:not([disabled])').click();
  await person.answer(true, 1_100);
  await chip('allowed');
  await pim.page.locator('[data-test=stage-canvas]').waitFor();

  // The same tab again: the picture comes by itself, and the step shown is the true one at every moment.
  const said: string[] = [];
  await pim.page.reload();
  for (let i = 0; i < 20; i++) said.push((await pim.page.locator('main').textContent()) ?? '');
  await chip('allowed');
  await pim.page.locator('[data-test=stage-canvas]').waitFor();
  await until('a picture', async () =>
    pim.page.locator('[data-test=stage-canvas]').evaluate((c) => (c as unknown as { width: number }).width > 300),
  );
  expect(said.join()).not.toContain('They are starting Doorstep');
  expect(customer.live.entries.filter((e) => e.event.type === 'programStarted')).toHaveLength(1);
  expect(customer.live.entries.filter((e) => e.event.type === 'permissionGranted')).toHaveLength(1);

  // Another tab of the same technician, with a copy of all that this one keeps: somebody new, who may do nothing yet.
  const kept = await pim.page.evaluate(() => JSON.stringify({ ...sessionStorage }));
  const twin = await pim.page.context().newPage();
  await twin.addInitScript((all: string) => {
    for (const [name, value] of Object.entries(JSON.parse(all) as Record<string, string>))
      if (sessionStorage.getItem(name) === null) sessionStorage.setItem(name, value);
  }, kept);
  await twin.goto(pim.page.url());
  await twin.locator('[data-test=chip-view-screen][data-standing=notAsked]').waitFor();
  await pim.page.locator('[data-test=out]').waitFor();
  expect(await pim.page.locator('[data-test=chip-view-screen]').count(), 'who is out has nothing to ask').toBe(0);

  // A second Doorstep on the same computer asks to take over, and is sent away.
  const second = house.startDoorstep(desktop, `${house.url}/join/${link}`);
  await twin.locator('[data-test=change-over]').waitFor();
  await clean(twin, 'a second Doorstep');
  await twin.locator('[data-test=change-over-no]').click();
  await twin.locator('[data-test=change-over]').waitFor({ state: 'detached' });
  await until('it to go', () => second.exitCode !== null);
  expect(doorstep.exitCode).toBe(null);

  // End asks once; leaving leaves the customer there; the way back is on the porch.
  await twin.locator('[data-test=end]').click();
  await clean(twin, 'end or leave');
  expect(customer.live.state.phase.name).toBe('live');
  await twin.locator('[data-test=leave]').click();
  await twin.getByRole('heading', { name: 'Waiting now' }).waitFor();
  expect(customer.live.state.phase.name).toBe('live');
  await twin.getByRole('button', { name: 'Open the session with Bettina Crole' }).click();
  await twin.locator('[data-test=end]').click();
  await twin.locator('[data-test=end-now]').click();
  await twin.locator('[data-test=outcome]').waitFor();
  expect(customer.live.state.phase.name).toBe('ended');
  expect(await twin.evaluate(() => Object.keys(sessionStorage).filter((n) => n.startsWith('porch-keys-')))).toEqual([]);
  expect(pim.problems).toEqual([]);
});
