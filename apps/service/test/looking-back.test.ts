import { failure, House, until } from '@porch/testkit';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
});
afterAll(() => house.close());

/** A session of somebody for Bettina, ended with a note. */
async function helped(name: string, ticketRef: string | undefined, note: string) {
  const { technician, rest, id } = await house.sessionUnderWay(name, ticketRef);
  await technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
  await technician.command({ type: 'logOutcome', outcome: 'worked-around', minutes: 12, note });
  return { rest, id };
}

describe('what was before', () => {
  it('stands beside a session of the same customer or at the same device, in short, whoever led it', async () => {
    const first = await helped('Rune Takahashi', 'MF-201', 'Old driver put back; the new one cuts the barcode.');
    const second = await helped('Ilse Marchetti', undefined, 'She asked how to print the timetable.');
    const { rest, id } = await house.sessionUnderWay('Pim Aldersey', 'MF-201');
    const earlier = await rest.earlierSessions(id);
    expect(earlier.map(({ session, shares, note, mayRead }) => ({ id: session.id, shares, note, mayRead }))).toEqual([
      { id: second.id, shares: ['customer'], note: 'She asked how to print the timetable.', mayRead: false },
      {
        id: first.id,
        shares: ['customer', 'device'],
        note: 'Old driver put back; the new one cuts the barcode.',
        mayRead: false,
      },
    ]);
    expect(earlier[0]?.session).toMatchObject({ technicianName: 'Ilse Marchetti', outcome: 'worked-around' });
    // Whose it was reads it whole, and only backwards.
    expect(await first.rest.earlierSessions(first.id)).toEqual([]);
    expect(await failure(second.rest.earlierSessions(id))).toBe('SESSION_NOT_FOUND');
    const odalys = await house.signedIn('Odalys Brandt');
    expect((await odalys.earlierSessions(id)).every(({ mayRead }) => mayRead)).toBe(true);
  });

  it('is there before the customer is: by their ticket alone', async () => {
    const pim = await house.signedIn();
    const { session } = await pim.start({ ticketRef: 'MF-201' });
    expect((await pim.earlierSessions(session.id)).length).toBeGreaterThanOrEqual(2);
    // A ticket of another person about another device shares nothing.
    expect(await pim.earlierSessions((await pim.start({ ticketRef: 'MF-203' })).session.id)).toEqual([]);
  });

  it('is gone once somebody was erased, and is the same made anew', async () => {
    const { id } = await helped('Rune Takahashi', 'MF-201', 'To be forgotten.');
    const odalys = await house.signedIn('Odalys Brandt');
    const pim = await house.signedIn();
    const { session } = await pim.start({ ticketRef: 'MF-201' });
    const notes = async () => (await pim.earlierSessions(session.id)).map(({ note }) => note);
    expect(await notes()).toContain('To be forgotten.');
    await odalys.erase(id, 'asked for');
    await until('it to be forgotten', async () => !(await notes()).includes('To be forgotten.'));
    const before = await notes();
    const [ties] = await house.query<{ n: string }>('SELECT count(*) AS n FROM "session_tie" WHERE "session_id" = $1', [
      id,
    ]);
    // Of the device its ticket's name is personal, too.
    expect(Number(ties?.n)).toBe(0);
    expect((await house.admin(['rebuild'])).code).toBe(0);
    expect(await notes()).toEqual(before);
  });
});
