import type { RestClient } from '@porch/client';
import { failure, House, until } from '@porch/testkit';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

let house: House;
let pim: RestClient;
let ilse: RestClient;
beforeAll(async () => {
  house = await House.open({ hasTickets: true, hasPost: true });
  [pim, ilse] = await Promise.all([house.signedIn(), house.signedIn('Ilse Marchetti')]);
});
afterAll(() => house.close());

const ada = { name: 'Ada Quillfeather', address: 'ada.quillfeather@marrowick.example' };
const inDays = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);

describe('who is on the telephone', () => {
  it('is found where they gave their number, however it is written, with what the desk has of them', async () => {
    const { entry } = await pim.request({
      ...{ ...ada, topic: 'Printing', language: 'en', description: 'The kiosk prints nothing' },
      ...{ ticketRef: 'MF-204', callBack: '555-0165' },
    });
    await pim.book({
      ...{ customerName: ada.name, address: ada.address, telephone: '+47 555 0165', purpose: 'The kiosk again' },
      ...{ date: inDays(2), time: '10:00', minutes: 30, language: 'en', timeZone: 'UTC' },
    });
    const own = await pim.start({ ticketRef: 'MF-204' });

    for (const number of ['555-0165', '+47 5550165', '0555/0165']) {
      const { people, ticketTrouble } = await pim.findCallers(number);
      expect(ticketTrouble).toBeUndefined();
      expect(people, number).toHaveLength(1);
      const [person] = people;
      expect(person).toMatchObject({ ...ada, knownFrom: ['queue', 'booking', 'ticket'] });
      expect(person?.waiting.map(({ id }) => id)).toEqual([entry.id]);
      expect(person?.bookings.map(({ purpose }) => purpose)).toEqual(['The kiosk again']);
      expect(person?.tickets.map(({ ref }) => ref)).toContain('MF-204');
      expect(person?.sessions.map(({ id }) => id)).toContain(own.session.id);
      // Who may not read a session learns nothing of it by a number.
      const [asIlse] = (await ilse.findCallers(number)).people;
      expect(asIlse?.sessions).toEqual([]);
    }
    expect((await pim.findCallers('555-0199')).people).toEqual([]);
    expect(await failure(pim.findCallers('MF-204'))).toBe('INVALID_REQUEST');
  });

  it('is told as far as it is known while the ticket system is down', async () => {
    await house.stopTickets();
    const { people, ticketTrouble } = await pim.findCallers('555-0165');
    expect(ticketTrouble).toBeDefined();
    expect(people.map(({ name, knownFrom }) => [name, knownFrom])).toEqual([[ada.name, ['queue', 'booking']]]);
    await house.startTickets();
  });

  it('needs a sign-in, and is written into no address', async () => {
    const answer = await fetch(`${house.url}/api/v1/callers/find`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ telephone: '555-0165' }),
    });
    expect(answer.status).toBe(401);
  });
});

describe('where somebody can be called again', () => {
  it('is what they gave in the queue, else with the booking, else what their ticket has', async () => {
    const { entry } = await pim.request({
      ...{ name: 'Tomasz Wren', address: 'tomasz.wren@marrowick.example', topic: 'Printing', language: 'en' },
      ...{ description: 'Every part twice', ticketRef: 'MF-205', callBack: '555-0174' },
    });
    const taken = await pim.start({ queueEntryId: entry.id });
    expect(await pim.sessionTelephone(taken.session.id)).toEqual({ telephone: '555-0174' });
    const booked = (await pim.bookings())[0];
    expect(await pim.sessionTelephone(booked?.sessionId ?? '')).toEqual({ telephone: '+47 555 0165' });
    const fromTicket = await pim.start({ ticketRef: 'MF-201' });
    expect(await pim.sessionTelephone(fromTicket.session.id)).toEqual({ telephone: '555-0161' });
    expect(await pim.sessionTelephone((await pim.start({})).session.id)).toEqual({});
    expect(await failure(ilse.sessionTelephone(taken.session.id))).toBe('SESSION_NOT_FOUND');
  });
});

describe('a row of somebody who waits', () => {
  it('has the device of their ticket, what kind it is, and when they were told that it would be their turn', async () => {
    await pim.setMyState({ isAway: false, minutes: 60 });
    const { entry, estimate } = await pim.request({
      ...{ name: 'Samir Oduya', address: 'samir.oduya@marrowick.example', topic: 'Printing', language: 'en' },
      ...{ description: 'Semicolons', ticketRef: 'mf-203' },
    });
    expect(estimate).toBeDefined();
    const row = await until('the ticket to be looked up', async () => {
      const found = (await pim.porch()).waiting.find(({ id }) => id === entry.id);
      return found?.asset === undefined ? undefined : found;
    });
    expect(row).toMatchObject({ asset: 'petrel-bridge-1', assetLabel: 'bridge' });
    expect(row.promisedMs).toBeGreaterThan(row.sinceMs);
    // What was promised stays as it was said, however long it takes.
    const later = (await pim.porch()).waiting.find(({ id }) => id === entry.id);
    expect(later?.promisedMs).toBe(row.promisedMs);
  });

  it('of a ticket that nobody has says no device, and keeps nobody from waiting', async () => {
    const { entry } = await pim.request({
      ...{ name: 'Greta Moss', address: 'greta.moss@marrowick.example', topic: 'Printing', language: 'en' },
      ...{ description: 'Read-only', ticketRef: 'MF-999' },
    });
    const row = (await pim.porch()).waiting.find(({ id }) => id === entry.id);
    expect([row?.name, row?.asset]).toEqual(['Greta Moss', undefined]);
  });
});
