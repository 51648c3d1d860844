import { cleanAtBothSizes, houseWithPages, sizes, until } from '@porch/testkit';
import ICAL from 'ical.js';
import jsQR from 'jsqr';
import { PNG } from 'pngjs';
import { expect, it } from 'vitest';

/* The ways in that begin with a picture, a file, the ticket or the directory: each to who asks, through real pages. */
const { house, pages } = await houseWithPages({ hasTickets: true, hasDirectory: true });

it('a picture that a telephone reads, a calendar entry that another program parses, and a file that a browser opens', async () => {
  const rest = await house.signedIn();
  const { session } = await rest.start({ ticketRef: 'MF-204' });
  const files = { qr: 'qr.png', calendar: 'calendar', 'join-file': 'join-file' } as const;
  const link: Record<string, string> = {};
  for (const way of ['qr', 'calendar', 'join-file'] as const) {
    const { invitation } = await rest.invite(session.id, { way, uses: 1 });
    const path = rest.invitationFilePath(session.id, invitation.id, files[way]);
    const answer = await fetch(house.url + path, { headers: { authorization: `Bearer ${rest.token}` } });
    const bytes = Buffer.from(await answer.arrayBuffer());
    if (way === 'qr') {
      const { data, width, height } = PNG.sync.read(bytes);
      link[way] = jsQR(new Uint8ClampedArray(data), width, height)?.data ?? '';
    } else if (way === 'calendar') {
      const event = new ICAL.Component(ICAL.parse(bytes.toString()) as object[]).getFirstSubcomponent('vevent');
      link[way] = String(event?.getFirstPropertyValue('url'));
    } else {
      const { page } = await pages.window();
      await page.setContent(bytes.toString());
      link[way] = (await page.getByRole('link').getAttribute('href')) ?? '';
    }
  }
  expect(new Set(Object.values(link)).size, 'each way has a link of its own').toBe(3);
  for (const [way, url] of Object.entries(link)) {
    const ada = await pages.window(way === 'qr' ? sizes.narrow : sizes.wide);
    await ada.page.goto(url);
    await ada.page.getByRole('button', { name: 'Continue' }).click();
    await ada.page.getByRole('heading', { name: 'Pim Aldersey of Marrowick Ferries wants to help you' }).waitFor();
    // Whoever holds only a link is told what it is about; who they are, they say.
    expect(await ada.page.getByLabel('Your name').inputValue()).toBe('');
    await ada.page.getByLabel('Your name').fill('Ada Quillfeather');
    expect(ada.problems).toEqual([]);
    if (way === 'qr') await cleanAtBothSizes(ada.page, 'who asks');
  }
  const { invitations } = await rest.session(session.id);
  for (const way of Object.keys(link)) expect(invitations.find((i) => i.way === way)?.uses, way).toBe(1);
});

it('“Get help now” on their own ticket: a place in the queue with the ticket attached', async () => {
  const greta = await pages.window();
  await greta.page.goto(`${house.ticketsUrl}/t/MF-202`);
  await greta.page.getByRole('button', { name: 'Get help now' }).click();
  await greta.page.locator('[data-test=place]').waitFor();
  const ilse = await pages.signedIn(house, 'Ilse Marchetti');
  const waiting = ilse.page.locator('section', { hasText: 'Waiting now' }).first();
  await waiting.getByText('MF-202').first().waitFor();
  await ilse.page.getByRole('button', { name: 'Help Greta Moss' }).click();
  await greta.page.getByText('Ticket MF-202').waitFor();
  expect([greta.problems, ilse.problems]).toEqual([[], []]);
});

it('the directory: who is signed in there asks under that name, and the technician reads that it is confirmed', async () => {
  const tomasz = await pages.window();
  await tomasz.page.goto(`${house.url}/help`);
  await tomasz.page.getByRole('link', { name: 'Sign in at the directory instead' }).click();
  await tomasz.page.getByRole('button', { name: 'Tomasz Wren' }).click();
  await tomasz.page.getByText('Tomasz Wren').first().waitFor();
  await cleanAtBothSizes(tomasz.page, 'the request page of somebody known');
  await tomasz.page.getByLabel('What goes wrong?').fill('The scanner adds every part twice');
  await tomasz.page.getByRole('button', { name: 'Send' }).click();
  await tomasz.page.locator('[data-test=place]').waitFor();
  const rest = await house.signedIn('Odalys Brandt');
  const entry = await until('the entry', async () =>
    (await rest.porch()).waiting.find((e) => e.name === 'Tomasz Wren'),
  );
  expect(entry.isConfirmed).toBe(true);
  // The directory goes down: whoever is known stays known, and nobody loses their place.
  await house.stopDirectory();
  await tomasz.page.reload();
  await tomasz.page.locator('[data-test=place]').waitFor();
  expect(tomasz.problems).toEqual([]);
});
