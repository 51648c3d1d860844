import { whyNoComputers, type PersonAtDesk } from '@porch/demo';
import { atATerminal, cleanAtBothSizes, computerOf, houseWithPages, runbookInUse, until } from '@porch/testkit';
import { expect, it } from 'vitest';

/* Administrator rights from the stage and from a terminal, at computers of people who have them and of people who have none. */
const { house, pages } = await houseWithPages({ hasTickets: true });
const inUse = await runbookInUse(house);
const possible = it.skipIf(whyNoComputers());

async function types(person: PersonAtDesk, password: string): Promise<void> {
  await person.questionSaying(/Password of an administrator/);
  await person.type(password);
  await person.press(/Password of an administrator/, 'yes');
}

possible('are raised by her own password, used by an action, and given back', async () => {
  await inUse({ title: 'Who am I', body: 'id -un', rights: 'administrator' });
  const session = await house.sessionUnderWay('Pim Aldersey', 'MF-201');
  const { person } = await house.withDoorstep(session.link, { desktop: await computerOf(house) });
  await until('Doorstep', () => session.technician.state.holderId);
  session.technician.close();
  const { page } = await pages.signedIn(house);
  await page.goto(`${house.url}/console/session/${session.id}`);
  await page.locator('[data-test=shelf-administrator-rights]').click();
  await page.locator('[data-test=ask-for-rights]').click();
  await person.press(/administrator rights/, 'yes');
  await page.locator('[data-test=rights-what] input').fill('look at the label printer');
  await cleanAtBothSizes(page, 'administrator rights');
  await page.locator('[data-test=raise-by-password]').click();
  await page.getByText('asks for an administrator’s password').waitFor();
  await types(person, 'tern-quay-gull-7');
  await page.locator('[data-test=rights-raised]').getByText('Administrator rights until').waitFor();
  await cleanAtBothSizes(page, 'administrator rights that are raised');
  // An action that needs them.
  await page.locator('[data-test=shelf-runbook]').click();
  await page.getByRole('button', { name: /Who am I/ }).click();
  await page.locator('[data-test=ask-to-run]').click();
  await person.press(/steps that the desk has checked/, 'yes');
  await page.locator('[data-test=look-at-it]').click();
  await page.locator('[data-test=as-root]').waitFor();
  await page.locator('[data-test=run-action]:not([disabled])').click();
  await page.getByText('root', { exact: true }).waitFor();
  // After a reload they are still there, and are given back.
  await page.reload();
  await page.locator('[data-test=shelf-administrator-rights]').click();
  await page.locator('[data-test=lower-rights]').click();
  await page.locator('[data-test=rights-what]').waitFor();
  await page.locator('[data-test=shelf-ledger], [data-test=ledger]').first().waitFor();
});

possible('are raised by leave of the desk, after a second person’s yes, where nobody there has them', async () => {
  const desktop = await computerOf(house, 'samir');
  const { deskKey } = JSON.parse((await house.admin(['rights-key', '--json'])).out) as { deskKey: string };
  await desktop.computer.read(
    ...(['/opt/zesty-porch/bin/node', '/opt/zesty-porch/dist/doorstep.mjs', 'rights'] as const),
    ...['install', '--desk-key', deskKey],
  );
  const session = await house.sessionUnderWay('Pim Aldersey');
  const { person } = await house.withDoorstep(session.link, { desktop });
  await until('Doorstep', () => session.technician.state.holderId);
  session.technician.close();
  const { page } = await pages.signedIn(house);
  await page.goto(`${house.url}/console/session/${session.id}`);
  await page.locator('[data-test=shelf-administrator-rights]').click();
  await page.locator('[data-test=ask-for-rights]').click();
  await person.press(/administrator rights/, 'yes');
  await page.locator('[data-test=rights-what] input').fill('remove the old chart package');
  await page.locator('[data-test=raise-by-desk]').click();
  await page.getByText('Somebody else of the desk says yes').waitFor();
  await page.locator('[data-test=ask-leave]').click();
  await page.locator('[data-test=leave]').getByText('Waiting for a second').waitFor();
  await cleanAtBothSizes(page, 'leave that a second person is asked for');
  const rune = await house.signedIn('Rune Takahashi');
  const [act] = await until('it to be seen', async () => {
    const { carefulActs } = await rune.porch();
    return carefulActs.length ? carefulActs : undefined;
  });
  expect(act).toMatchObject({ act: 'administrator-rights/raise', name: 'remove the old chart package' });
  await rune.giveSecondYes(act?.sessionId ?? '', act?.actId ?? '', true);
  await page.locator('[data-test=raise-now]:not([disabled])').click();
  await page.locator('[data-test=rights-raised]').waitFor();
  await session.customer.command({ type: 'endSession', reason: 'customer', why: '' });
  // The same from a terminal.
  const { porch, person: there } = await atATerminal(house, desktop);
  const asking = porch('ask', 'rights');
  await there.press(/administrator rights/, 'yes');
  await asking;
  const raising = porch('raise-rights', 'remove the old chart package', '--by', 'desk', '--json');
  const [second] = await until('it to be seen', async () => {
    const { carefulActs } = await rune.porch();
    return carefulActs.length ? carefulActs : undefined;
  });
  await rune.giveSecondYes(second?.sessionId ?? '', second?.actId ?? '', true);
  expect(JSON.parse((await raising).out)).toMatchObject({ way: 'desk' });
});

possible('are raised and given back from a terminal', async () => {
  const { porch, person } = await atATerminal(house, await computerOf(house));
  const asking = porch('ask', 'rights');
  await person.press(/administrator rights/, 'yes');
  await asking;
  expect(JSON.parse((await porch('rights', '--json')).out)).toMatchObject({ raised: null, ways: { password: true } });
  expect(await porch('raise-rights', 'the printer', '--by', 'magic')).toMatchObject({ code: 2 });
  const unwanted = porch('raise-rights', 'the printer');
  await person.press(/Password of an administrator/, 'no');
  const { code, err } = await unwanted;
  expect([code, err]).toEqual([1, expect.stringContaining('no password was typed')]);
  const raising = porch('raise-rights', 'the printer', '--json');
  await types(person, 'tern-quay-gull-7');
  expect(JSON.parse((await raising).out)).toMatchObject({ way: 'password' });
  expect((await porch('rights')).out).toMatch(/^Administrator rights until /);
  expect((await porch('lower-rights')).out).toBe('They are given back.\n');
  expect((await porch('lower-rights')).out).toBe('There are no administrator rights now.\n');
});
