import { fetchExchange, RestClient } from '@porch/client';
import { allActions, couldDo, type Person } from '@porch/core';
import { House, until, failure } from '@porch/testkit';
import { operations } from '@porch/wire';
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open({ hasPost: true });
});
afterAll(() => house.close());

const people = {
  technician: 'Pim Aldersey',
  trainee: 'Noor Castellane',
  'of another team': 'Ilse Marchetti',
  'lead of the desk': 'Odalys Brandt',
};

interface Route {
  readonly method: string;
  readonly path: string;
}
/** Those of technicians: as they are asked for now, and by programs of before. */
const routes: readonly Route[] = [
  ...operations
    .filter(({ who }) => who === 'technician')
    .flatMap(({ method, path, old }) => [
      { method, path: `/api/v1${path}` },
      ...(old === 'none' ? [] : [{ method: old?.method ?? method, path: `/api${old?.path ?? path}` }]),
    ]),
  ...['/api/sessions', '/api/feed'].map((path) => ({
    method: 'GET',
    path,
  })),
];
const filled = (path: string) => path.replace(/\{answer\}/, 'accept').replace(/\{[a-zA-Z]+\}/g, randomUUID());
async function call({ method, path }: Route, token?: string): Promise<{ status: number; code: string }> {
  const abort = new AbortController();
  const answer = await fetch(house.url + filled(path), {
    method,
    signal: abort.signal,
    headers: {
      ...(token ? { authorization: `Bearer ${token}` } : {}),
      ...(method === 'GET' ? {} : { 'content-type': 'application/json', 'x-porch': '1' }),
    },
    ...(method === 'GET' ? {} : { body: '{}' }),
  });
  const text = answer.headers.get('content-type')?.includes('event-stream') ? '' : await answer.text();
  abort.abort();
  return {
    status: answer.status,
    code: text.startsWith('{') ? ((JSON.parse(text) as { code?: string }).code ?? '') : '',
  };
}

describe('every route', () => {
  it('of a technician’s asks who is there before anything else', async () => {
    expect(routes.length).toBeGreaterThan(80);
    for (const route of routes) {
      const answer = await call(route);
      // What is asked is looked at first, and says nothing of what is there.
      expect([401, 400], `${route.method} ${route.path}`).toContain(answer.status);
      expect(['SIGN_IN_NEEDED', 'INVALID_REQUEST'], `${route.method} ${route.path}`).toContain(answer.code);
    }
  });

  it.each(Object.entries(people))(
    'answers a %s about what is not theirs with a no, and never with a fault',
    async (_role, name) => {
      const rest = await house.signedIn(name);
      for (const route of routes) {
        const { status } = await call(route, rest.token);
        expect(status, `${route.method} ${route.path}`).toBeLessThan(500);
      }
    },
  );

  it('unknown is unknown, and no page stands where an answer is expected', async () => {
    for (const path of ['/api/nothing', '/api/sessions/x/y/z'])
      expect((await fetch(house.url + path)).status).toBe(404);
  });
});

describe('what belongs to somebody', () => {
  it('is theirs, their lead’s and the desk lead’s, and being asked to take over opens nothing', async () => {
    const { rest: pim, technician, id } = await house.sessionUnderWay();
    const who = async (name: string) => house.signedIn(name);
    const [noor, ilse, rune, odalys] = [
      await who('Noor Castellane'),
      await who('Ilse Marchetti'),
      await who('Rune Takahashi'),
      await who('Odalys Brandt'),
    ];
    for (const other of [noor, ilse, rune])
      for (const look of [
        () => other.session(id),
        () => other.ledger(id),
        () => other.draft(id),
        () => other.invitations(id),
        () => other.livePass(id),
      ])
        expect(await failure(look())).toBe('SESSION_NOT_FOUND');
    for (const other of [noor, ilse, rune, odalys]) {
      expect(await failure(other.newCode(id))).not.toBe('no failure');
      expect(await failure(other.invite(id, { way: 'qr' }))).not.toBe('no failure');
    }
    expect(await failure(odalys.ledger(id)), 'who leads the desk reads').toBe('no failure');
    expect(await failure(odalys.livePass(id)), 'and watches nobody').toBe('SESSION_NOT_FOUND');
    expect((await ilse.sessions('')).map((s) => s.id)).not.toContain(id);
    expect((await odalys.sessions('')).map((s) => s.id)).toContain(id);
    const handoverId = randomUUID();
    await technician.command({ type: 'requestHandover', handoverId, toTechnicianId: 'rune', remark: 'for you' });
    expect((await rune.porch()).handovers[0]?.brief).toContain('for you');
    expect(await failure(rune.ledger(id))).toBe('SESSION_NOT_FOUND');
    expect(await failure(rune.livePass(id))).toBe('SESSION_NOT_FOUND');
    expect(await failure(noor.answerHandover(handoverId, 'accept'))).toBe('HANDOVER_NOT_FOUND');
    await rune.answerHandover(handoverId, 'accept');
    expect(await failure(rune.livePass(id))).toBe('no failure');
    void pim;
  });

  it('waiting people are taken and written to by no trainee who was not offered them', async () => {
    const stranger = new RestClient(fetchExchange(house.url));
    const { entry } = await stranger.request({
      name: 'Greta Moss',
      address: '',
      topic: 'Printing',
      language: 'en',
      description: 'The timetable prints twice',
    });
    const noor = await house.signedIn('Noor Castellane');
    expect(await failure(noor.start({ queueEntryId: entry.id }))).toBe('NOT_YOUR_ROLE');
    expect(await failure(noor.sayToEntry(entry.id, 'Hello'))).toBe('NOT_YOUR_ROLE');
    expect(await failure((await house.signedIn()).sayToEntry(entry.id, 'Hello'))).toBe('no failure');
  });

  it('known faults are ended by who published them, their team and its lead; bookings are made in one’s own team', async () => {
    const [pim, rune, ilse, noor] = [
      await house.signedIn(),
      await house.signedIn('Rune Takahashi'),
      await house.signedIn('Ilse Marchetti'),
      await house.signedIn('Noor Castellane'),
    ];
    expect(await failure(noor.publishKnownFault({ topic: 'Printing', text: 'Nothing prints' }))).toBe('NOT_YOUR_ROLE');
    const fault = await pim.publishKnownFault({ topic: 'Printing', text: 'Barcodes are cut in half' });
    expect(await failure(ilse.endKnownFault(fault.id))).toBe('NOT_YOUR_ROLE');
    expect(await failure(noor.endKnownFault(fault.id))).toBe('NOT_YOUR_ROLE');
    expect(await failure(rune.endKnownFault(fault.id))).toBe('no failure');
    const booking = (technicianId: string) => ({
      customerName: 'Jonas Ferreday',
      address: 'jonas.ferreday@marrowick.example',
      language: 'en' as const,
      purpose: 'Night prints',
      date: '2027-06-01',
      time: '10:00',
      minutes: 30,
      technicianId,
    });
    expect(await failure(noor.book(booking('pim')))).toBe('NOT_YOUR_ROLE');
    expect(await failure(pim.book(booking('ilse')))).toBe('NOT_YOUR_ROLE');
    const made = await pim.book(booking('rune'));
    expect(await failure(ilse.cancelBooking(made.id, ''))).toBe('BOOKING_NOT_FOUND');
    // Cancelled, nothing stays prepared for it.
    await rune.cancelBooking(made.id, 'The night is quiet.');
    await until('its session to be over', async () => (await rune.session(made.sessionId)).phase === 'ended');
    expect((await rune.porch()).sessions.map((s) => s.id)).not.toContain(made.sessionId);
  });
});

it('has a rule for every action, and each role has its bounds', () => {
  const noor: Person = { id: 'noor', role: 'trainee', team: 'Pier Systems' };
  const never = allActions.filter((action) => !couldDo(noor, action));
  expect(never.sort()).toEqual(
    [
      'approve a runbook action',
      'end a known fault',
      'erase a session',
      'forget a device',
      'give a second yes',
      'have administrator rights',
      'look at an override',
      'publish a known fault',
      'review a knowledge note',
      'review a runbook action',
      'visit a device',
    ].sort(),
  );
});
