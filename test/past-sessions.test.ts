import { cleanAtBothSizes, houseWithPages, until } from '@porch/testkit';
import { expect, it } from 'vitest';

/* Past sessions in the console and on the command line: asked for by words and by what they were, a page after the other. */
const { house, pages } = await houseWithPages({ hasTickets: true });

/** Sessions of Pim's that ended with an outcome. */
async function past(refs: readonly string[]): Promise<void> {
  for (const [i, ticketRef] of refs.entries()) {
    const { technician } = await house.sessionUnderWay('Pim Aldersey', ticketRef);
    await technician.command({
      type: 'sendChat',
      messageId: crypto.randomUUID(),
      text: i ? 'Samir’s label roll was empty' : 'La skriveren på bryggen stå',
    });
    await technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
    await technician.command({ type: 'logOutcome', outcome: i ? 'resolved' : 'escalated', note: 'Done.', minutes: 3 });
    technician.close();
  }
}

it('are found by what was said and how they went, in a link, and are told apart from those that are not theirs', async () => {
  await past(['MF-201', 'MF-202']);
  const { page } = await pages.signedIn(house);
  await page.getByRole('link', { name: 'Past sessions' }).click();
  const rows = page.locator('tbody tr');
  await until('both', async () => (await rows.count()) === 2);
  await cleanAtBothSizes(page, 'past sessions');

  await page.getByLabel('Search sessions').fill('SKRIVEREN bryg');
  await until('one', async () => (await rows.count()) === 1);
  expect(await rows.first().textContent()).toContain('MF-201');
  await page.getByRole('combobox', { name: 'Outcome', exact: true }).selectOption('resolved');
  await page.getByText('No session fits').waitFor();
  await cleanAtBothSizes(page, 'no past session');
  // The address says what was asked for: whoever gets it, or comes back, sees the same.
  const link = page.url();
  await page.getByRole('button', { name: 'Show all' }).click();
  await until('all again', async () => (await rows.count()) === 2);
  expect(await page.getByLabel('Search sessions').inputValue()).toBe('');
  await page.goto(link.replace('resolved', 'escalated'));
  await until('the same', async () => (await rows.count()) === 1);
  expect(await page.getByRole('combobox', { name: 'Outcome', exact: true }).inputValue()).toBe('escalated');
  // What somebody changed by hand asks for what of it can be asked.
  await page.goto(link.replace('resolved', 'splendid').replace('SKRIVEREN', 'label').replace('bryg', 'roll'));
  await until('by the words', async () => (await rows.first().textContent())?.includes('MF-202'));

  // A colleague who had nothing to do with them finds none.
  const noor = await pages.signedIn(house, 'Noor Castellane');
  await noor.page.getByRole('link', { name: 'Past sessions' }).click();
  await noor.page.getByText('There are no sessions yet').waitFor();
});

it('come page by page, and as JSON with where the next begins; what is no question is said', async () => {
  const porch = (...args: string[]) => house.porch('pim', args, 'harbour-lamp-41');
  await porch('sign-in', '--service', house.url, '--email', 'pim.aldersey@marrowick.example', '--password-stdin');
  const page = async (...args: string[]) =>
    JSON.parse((await porch('sessions', '--json', ...args)).out) as { items: { ticketRef: string }[]; next?: string };
  const first = await page('--limit', '1', '--phase', 'logged');
  const second = await page('--limit', '1', '--phase', 'logged', '--after', first.next ?? '');
  expect([...first.items, ...second.items].map((s) => s.ticketRef)).toEqual(['MF-202', 'MF-201']);
  expect(second.next).toBeUndefined();
  expect((await porch('sessions', '--limit', '1')).out).toMatch(/There are more: --after \S+/);
  expect((await porch('sessions', 'label', '--outcome', 'resolved')).out).toContain('MF-202');
  expect((await porch('sessions', 'xylophone')).out).toContain('No session fits');
  for (const [args, code, words] of [
    [['--outcome', 'splendid'], 2, /--outcome/],
    [['--from', 'tomorrow'], 2, /is no day/],
    [['--limit', '10000'], 2, /--limit/],
    [['--after', first.next ?? '', '--outcome', 'resolved'], 1, /belongs to another question/],
  ] as const) {
    const answer = await porch('sessions', ...args);
    expect([args, answer.code, answer.err]).toEqual([args, code, expect.stringMatching(words)]);
  }
});
