import type { RestClient } from '@porch/client';
import { House, until, failure } from '@porch/testkit';
import ICAL from 'ical.js';
import { afterAll, beforeAll, expect, it } from 'vitest';

const SAMIR = 'samir.oduya@marrowick.example';
let house: House;
let wanjiru: RestClient;
beforeAll(async () => {
  house = await House.open({ hasTickets: true, hasPost: true });
  wanjiru = await house.signedIn('Wanjiru Holt');
});
afterAll(() => house.close());

const booking = {
  customerName: 'Samir Oduya',
  address: SAMIR,
  telephone: '555-0162',
  purpose: 'The manifest export of the Petrel',
  ticketRef: 'MF-203',
  timeZone: 'Europe/Oslo',
};
const mail = (n: number) =>
  until(`mail ${n}`, async () => {
    const mails = await house.mailsTo(SAMIR);
    return mails.length >= n ? mails[0] : undefined;
  });
/** What another program reads in the calendar file that came with a mail. */
const eventIn = (calendar: string | undefined) => {
  const parsed = new ICAL.Component(ICAL.parse(calendar ?? '') as never);
  const event = new ICAL.Event(parsed.getFirstSubcomponent('vevent') ?? undefined);
  return {
    method: parsed.getFirstPropertyValue('method'),
    uid: event.uid,
    sequence: event.sequence,
    startsAtMs: event.startDate.toUnixTime() * 1000,
    minutes: (event.endDate.toUnixTime() - event.startDate.toUnixTime()) / 60,
    alarms: event.component.getAllSubcomponents('valarm').length,
    description: event.description,
  };
};
const calendarOf = (m: Awaited<ReturnType<typeof mail>>) =>
  m.attachments.find((a) => a.type === 'text/calendar')?.content;

it('is told with a calendar entry, moved with the same uid and a higher sequence, and cancelled with notice', async () => {
  const nextYear = new Date().getUTCFullYear() + 1;
  // The first Monday of April, when the clocks have changed: 09:00 there is 07:00 in UTC.
  const summer = new Date(Date.UTC(nextYear, 3, 7));
  summer.setUTCDate(7 - ((summer.getUTCDay() + 6) % 7));
  const date = summer.toISOString().slice(0, 10);
  const made = await wanjiru.book({ ...booking, date, time: '09:00', language: 'no' });
  expect(made.startsAtMs).toBe(Date.parse(`${date}T07:00:00Z`));
  const first = await mail(1);
  expect(first.subject).toMatch(/^Marrowick Ferries: mandag .*09:00/);
  const told = eventIn(calendarOf(first));
  expect(told).toMatchObject({ method: 'REQUEST', sequence: 0, startsAtMs: made.startsAtMs, minutes: 30, alarms: 2 });

  const moved = await wanjiru.moveBooking(made.id, { date, time: '14:30', minutes: 45 });
  const second = eventIn(calendarOf(await mail(2)));
  expect(second).toMatchObject({
    method: 'REQUEST',
    uid: told.uid,
    sequence: 1,
    startsAtMs: moved.startsAtMs,
    minutes: 45,
  });
  expect((await wanjiru.porch()).bookings.map((b) => [b.customerName, b.wallTime.time])).toEqual([
    ['Samir Oduya', '14:30'],
  ]);

  // The link of the first mail still leads in, and somebody comes in by a calendar entry.
  const link = /\/join\/([\w-]+)/.exec(told.description)?.[1] ?? '';
  const { live } = await house.customer({ link });
  // Whoever holds only the link is told what it is about, and not whom it is for.
  expect([live.state.ticketRef, live.state.language, live.state.customerName]).toEqual(['MF-203', 'no', undefined]);

  await wanjiru.cancelBooking(made.id, 'The ship sails earlier.');
  const third = await mail(3);
  expect(third.text).toContain('The ship sails earlier.');
  expect(eventIn(calendarOf(third))).toMatchObject({ method: 'CANCEL', uid: told.uid, sequence: 2 });
  expect(await failure(house.customer({ link }))).toBe('INVITATION_WITHDRAWN');
  expect(await failure(wanjiru.moveBooking(made.id, { date, time: '15:00' }))).toBe('BOOKING_CANCELLED');
  expect((await wanjiru.porch()).bookings).toEqual([]);
});

it('reminds by mail and telephone when it is time, once', async () => {
  const before = (await house.mailsTo(SAMIR)).length;
  const soon = new Date(Date.now() + 120 * 60_000).toISOString();
  const made = await wanjiru.book({
    ...booking,
    date: soon.slice(0, 10),
    time: soon.slice(11, 16),
    timeZone: 'UTC',
    remindMinutes: [1_440, 60, 10],
  });
  await house.setPost({ texts: 'down' });
  // Of the day before nobody needs to be reminded today; an hour before, they do.
  await house.query(`UPDATE "booking" SET "starts_at" = now() + interval '50 minutes' WHERE "id" = $1`, [made.id]);
  const reminder = await until('the reminder', async () =>
    (await house.mailsTo(SAMIR)).find((m) => m.subject.startsWith('Soon: Wanjiru Holt of Marrowick Ferries')),
  );
  expect(reminder.text).toContain('/join/');
  // The gateway comes back: the text goes out then, and the mail not a second time.
  await until('a try that failed', async () => {
    const [row] = await house.query<{ n: number }>(
      `SELECT count(*)::int AS n FROM "outbox" WHERE "kind" = 'booking' AND "attempts" > 0 AND "delivered_at" IS NULL`,
    );
    return row?.n;
  });
  await house.setPost({ texts: 'well' });
  await until('the text message', async () => (await house.textsTo('555-0162')).length);
  const rows = await house.query<{ reminded: number[] }>(`SELECT "reminded" FROM "booking" WHERE "id" = $1`, [made.id]);
  expect([rows[0]?.reminded, (await house.mailsTo(SAMIR)).length]).toEqual([[1_440, 60], before + 2]);
});

it('refuses hours that do not exist, times gone by, unknown zones and other people’s bookings', async () => {
  const tomorrow = new Date(Date.now() + 86_400_000).toISOString().slice(0, 10);
  const at = (date: string, time: string, timeZone = 'Europe/Oslo') =>
    failure(wanjiru.book({ ...booking, date, time, timeZone }));
  expect(await at('2020-01-01', '09:00')).toBe('BOOKING_TIME');
  expect(await at('2026-02-30', '09:00')).toBe('BOOKING_TIME');
  expect(await at(tomorrow, '09:00', 'Mars/Olympus')).toBe('TIME_ZONE_UNKNOWN');
  expect(await failure(wanjiru.book({ ...booking, date: tomorrow, time: '09:00', address: 'nowhere' }))).toBe(
    'ADDRESS_INVALID',
  );
  const made = await wanjiru.book({ ...booking, date: tomorrow, time: '09:00' });
  const rune = await house.signedIn('Rune Takahashi');
  expect(await failure(rune.cancelBooking(made.id, ''))).toBe('BOOKING_NOT_FOUND');
  const odalys = await house.signedIn('Odalys Brandt');
  expect((await odalys.cancelBooking(made.id, '')).isCancelled).toBe(true);
});
