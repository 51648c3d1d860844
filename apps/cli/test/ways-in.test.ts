import { House, until } from '@porch/testkit';
import type { BookingView, CallersFound, Invited, PorchView } from '@porch/wire';
import ICAL from 'ical.js';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* Every way in from the terminal. */
let house: House;
beforeAll(async () => {
  house = await House.open({ hasTickets: true, hasPost: true });
  await porch('sign-in', '--service', house.url, '--email', 'pim.aldersey@marrowick.example', '--password-stdin');
});
afterAll(() => house.close());
const porch = (...args: string[]) => house.porch('pim', args, 'harbour-lamp-41');
const json = async <T>(...args: string[]) => JSON.parse((await porch(...args, '--json')).out) as T;
const said = async (...args: string[]) => {
  const { code, out, err } = await porch(...args);
  expect([args[0], code, err]).toEqual([args[0], 0, '']);
  return out;
};

it('asks in by mail, text, picture, calendar entry, file, link and ticket, says how far each came, and takes one back', async () => {
  expect(await said('start', 'MF-201')).toMatch(/^Aloud {4}\w+ \w+, \w+ \w+ … \w+ \w+, \w+ \w+$/m);
  expect(await said('invite', 'mail', '--preview', '--language', 'de')).toContain('ist bereit, Ihnen zu helfen');
  expect(await said('invite', 'mail', '--remark', 'We spoke.')).toContain(
    'On its way to bettina.crole@marrowick.example',
  );
  await said('invite', 'text', '555-0161', '--uses', '1', '--minutes', '30');
  await said('invite', 'ticket');
  expect(await said('invite', 'link')).toMatch(/^Link {5}http.*\/join\//);
  expect(await said('invite', 'qr'), 'drawn in the terminal').toMatch(/[▀▄█]{5}/);
  const at = (name: string) => join(house.folder, name);
  await said('invite', 'qr', '-o', at('help.png'));
  await said('invite', 'calendar', '-o', at('help.ics'));
  await said('invite', 'file', '-o', at('help.html'));
  expect(readFileSync(at('help.png')).subarray(1, 4).toString()).toBe('PNG');
  expect(
    new ICAL.Component(ICAL.parse(readFileSync(at('help.ics'), 'utf8')) as never).getAllSubcomponents('vevent'),
  ).toHaveLength(1);
  expect(readFileSync(at('help.html'), 'utf8')).toContain('/join/');
  const states = async () =>
    (await house.query<{ way: string; delivery: string }>(`SELECT "way", "delivery" FROM "invitation"`)).map(
      (i) => `${i.way} ${i.delivery}`,
    );
  await until('mail and text to arrive', async () => {
    const all = await states();
    return all.includes('mail delivered') && all.includes('text-message delivered');
  });
  const table = await said('invitations');
  expect(table).toMatch(/mail +delivered, not opened yet +0 +bettina\.crole/);
  for (const line of table.split('\n')) expect(line.length).toBeLessThanOrEqual(100);
  const { invitation } = await json<Invited>('invite', 'link');
  await said('uninvite', invitation.id.slice(0, 8));
  expect(await said('invitations')).toMatch(/link +withdrawn/);
  const wrong = await porch('invite', 'text', 'bettina');
  expect([wrong.code, wrong.err]).toEqual([1, expect.stringContaining('telephone number is needed')]);
  expect((await porch('uninvite', 'ffffffff')).code).toBe(5);
});

it('is here and away, is offered who waits, and lets them go on', async () => {
  const { entry } = await (
    await house.signedIn()
  ).request({
    name: 'Ada Quillfeather',
    address: 'ada.quillfeather@marrowick.example',
    topic: 'Printing',
    language: 'en',
    description: 'The kiosk prints nothing',
  });
  expect(await said('waiting')).toContain('Ada Quillfeather');
  await said('here', '--minutes', '30');
  await until(
    'the offer',
    async () => (await house.query(`SELECT 1 FROM "queue_entry" WHERE "offered_to" = 'pim'`)).length,
  );
  expect(await said('waiting')).toMatch(/yours 0:\d\d/);
  await said('away');
  await said('not-now', entry.id.slice(0, 8));
  expect((await json<PorchView>('waiting')).waiting[0]?.offer).toBeUndefined();
});

it('books, moves and cancels', async () => {
  const year = new Date().getUTCFullYear() + 1;
  const made = await json<BookingView>(
    ...['book', '--customer', 'Samir Oduya', '--mail', 'samir.oduya@marrowick.example', '--ticket', 'MF-203'],
    ...['--date', `${year}-05-03`, '--time', '09:30', '--zone', 'Europe/Oslo'],
  );
  expect(made.startsAtMs).toBe(Date.parse(`${year}-05-03T07:30:00Z`));
  expect(await said('bookings')).toContain(`${year}-05-03 09:30`);
  await said('move-booking', made.id.slice(0, 8), '--date', `${year}-05-04`, '--time', '10:00');
  expect(await said('bookings')).toContain(`${year}-05-04 10:00`);
  await said('cancel-booking', made.id.slice(0, 8), '--remark', 'The ship sails earlier.');
  expect(await said('bookings')).toBe('Nothing is booked.\n');
  expect((await porch('cancel-booking', 'ffffffff')).code).toBe(5);
});

it('says whom a telephone number stands for', async () => {
  const text = await said('caller', '555', '0161');
  expect(text).toContain('Bettina Crole · bettina.crole@marrowick.example');
  expect(text).toMatch(/^Ticket +MF-201 +tern-quay-04: Boarding-pass/m);
  expect(await json<CallersFound>('caller', '+47 555-0161')).toMatchObject({ people: [{ name: 'Bettina Crole' }] });
  expect(await said('caller', '555-0199')).toContain('Nobody gave this number');
  const wrong = await porch('caller', 'MF-201');
  expect([wrong.code, wrong.err]).toEqual([2, expect.stringContaining('6 to 15 digits')]);
});
