import type { RestClient } from '@porch/client';
import { House, until, failure } from '@porch/testkit';
import pg from 'pg';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';

let house: House;
let pim: RestClient;
let rune: RestClient;
let ilse: RestClient;
beforeAll(async () => {
  house = await House.open({
    hasTickets: true,
    env: { PORCH_OFFER_SECONDS: '1', PORCH_WRAP_UP_SECONDS: '600', PORCH_MAX_SCREENS: '1', PORCH_MAX_WAITING: '6' },
  });
  [pim, rune, ilse] = (await Promise.all(
    ['Pim Aldersey', 'Rune Takahashi', 'Ilse Marchetti'].map((name) => house.signedIn(name)),
  )) as [RestClient, RestClient, RestClient];
});
afterEach(async () => {
  for (const one of [pim, rune, ilse]) await one.setMyState({ isAway: true });
  await house.query(`UPDATE "queue_entry" SET "state" = 'left', "closed_at" = now() WHERE "state" = 'waiting'`);
  await house.query(`UPDATE "session" SET "phase" = 'logged'`);
});
afterAll(() => house.close());

const here = (one: RestClient) => one.setMyState({ isAway: false, minutes: 60 });
const ask = (over: Partial<Parameters<RestClient['request']>[0]> = {}) =>
  pim.request({
    name: 'Ada Quillfeather',
    address: 'ada.quillfeather@marrowick.example',
    topic: 'Printing',
    language: 'en',
    description: 'The kiosk prints nothing',
    ...over,
  });
const offeredTo = async (entryId: string) =>
  (
    await house.query<{ to: string | null }>(`SELECT "offered_to" AS to FROM "queue_entry" WHERE "id" = $1`, [entryId])
  )[0]?.to;
const isOffered = (entryId: string, to: string) =>
  until(`an offer to ${to}`, async () => (await offeredTo(entryId)) === to);

describe('somebody who waits', () => {
  it('is offered to who speaks their language, goes on to the next when nobody answers, and is never lost', async () => {
    await Promise.all([here(pim), here(rune), here(ilse)]);
    const { entry } = await ask({ language: 'no' });
    await isOffered(entry.id, 'rune');
    expect(await failure(pim.start({ queueEntryId: entry.id })), 'not to be taken from under an offer').toBe(
      'ENTRY_OFFERED',
    );
    await until('Rune to count as away', async () => (await rune.porch()).me.isAway);
    // Nobody else speaks Norwegian: after ten minutes anybody is better than nobody.
    expect(await offeredTo(entry.id)).toBeNull();
    await house.query(`UPDATE "queue_entry" SET "since" = now() - interval '11 minutes' WHERE "id" = $1`, [entry.id]);
    await isOffered(entry.id, 'pim');
    const shown = (await pim.porch()).waiting.find((e) => e.id === entry.id);
    expect([shown?.offer?.isMine, shown?.reasons]).toEqual([
      true,
      [{ word: 'speaks-not' }, { word: 'knows-topic' }, { word: 'open', count: 0 }],
    ]);
    await pim.notNow(entry.id);
    await isOffered(entry.id, 'ilse');
  });

  it('is taken by one of two who answer in the same millisecond', async () => {
    const { entry, token } = await ask();
    const answers = await Promise.all([pim, rune].map((one) => failure(one.start({ queueEntryId: entry.id }))));
    expect(answers.sort()).toEqual(['ENTRY_NOT_WAITING', 'no failure']);
    expect((await pim.entry(token ?? '')).joinToken).toBeDefined();
    expect(
      await house.query(`SELECT 1 FROM "session" WHERE "purpose" LIKE 'Printing: The kiosk%' AND "phase" <> 'logged'`),
    ).toHaveLength(1);
  });

  it('writes and is answered before there is a session, and what was said is in its ledger', async () => {
    const { entry, token } = await ask();
    await pim.sayInQueue(token ?? '', 'The light blinks twice.');
    await rune.sayToEntry(entry.id, 'Is there paper in it?');
    expect((await pim.entry(token ?? '')).entry.messages.map((m) => [m.name, m.text])).toEqual([
      ['Ada Quillfeather', 'The light blinks twice.'],
      ['Rune Takahashi', 'Is there paper in it?'],
    ]);
    const { session } = await pim.start({ queueEntryId: entry.id });
    const [, prepared] = (await house.technician(pim, session.id)).entries;
    expect(JSON.stringify(prepared)).toContain('The light blinks twice.');
    expect(await failure(pim.sayInQueue(token ?? '', 'More'))).toBe('ENTRY_NOT_WAITING');
  });

  it('keeps place and words over a service that is killed, and over a browser that is closed', async () => {
    const first = await ask();
    const second = await ask({ name: 'Jonas Ferreday', callBack: '555-0166' });
    await pim.sayInQueue(second.token ?? '', 'On board until six.');
    await house.killService();
    await house.startService();
    [pim, rune, ilse] = (await Promise.all(
      ['Pim Aldersey', 'Rune Takahashi', 'Ilse Marchetti'].map((name) => house.signedIn(name)),
    )) as [RestClient, RestClient, RestClient];
    const status = await pim.entry(second.token ?? '');
    expect([status.place, status.entry.messages.length, status.entry.callBack]).toEqual([2, 1, '555-0166']);
    await pim.leaveQueue(first.token ?? '');
    expect((await pim.entry(second.token ?? '')).place).toBe(1);
    expect((await pim.porch()).waiting.map((e) => e.name)).toEqual(['Jonas Ferreday']);
  });
});

describe('routing', () => {
  it('gives nobody more than their limit, and nobody while they wrap up', async () => {
    await here(pim);
    const [first, second] = [await ask(), await ask({ name: 'Samir Oduya' })];
    await isOffered(first.entry.id, 'pim');
    const { session, link } = await pim.start({ queueEntryId: first.entry.id });
    const hurdles = async () => (await pim.porch()).waiting.find((e) => e.id === second.entry.id)?.hurdles;
    expect(await hurdles()).toEqual([{ word: 'enough-screens' }]);
    const { live } = await house.customer({ link: link.split('/').at(-1) ?? '' });
    await live.command({ type: 'endSession', reason: 'customer', why: 'done', fact: undefined });
    await until('the session to be over', async () => (await pim.session(session.id)).phase === 'ended');
    expect(await hurdles()).toEqual([{ word: 'wrapping-up' }]);
    expect(await offeredTo(second.entry.id)).toBeNull();
    await here(pim);
    await isOffered(second.entry.id, 'pim');
  });

  it('takes nobody for free while their session ends under its eyes', async () => {
    await here(pim);
    const first = await ask();
    await isOffered(first.entry.id, 'pim');
    const { session } = await pim.start({ queueEntryId: first.entry.id });
    const second = await ask({ name: 'Samir Oduya' });
    const ending = new pg.Client({ connectionString: house.databaseUrl });
    await ending.connect();
    try {
      await ending.query('BEGIN');
      await ending.query('LOCK TABLE "session" IN ACCESS EXCLUSIVE MODE');
      // A round has begun to read, and is held where it counts what is open.
      await until('a round to be held', async () => {
        const held = await ending.query(
          `SELECT 1 FROM pg_locks round JOIN pg_locks wait USING (pid)
            WHERE round.locktype = 'advisory' AND round.objid = 8420001 AND round.granted
              AND wait.relation = '"session"'::regclass AND NOT wait.granted`,
        );
        return held.rowCount !== 0;
      });
      await ending.query(`UPDATE "session" SET "phase" = 'ended' WHERE "id" = $1`, [session.id]);
      await ending.query(`UPDATE "technician_state" SET "wrap_up_until" = now() + interval '10 minutes'`);
      await ending.query('COMMIT');
    } finally {
      await ending.end();
    }
    await here(rune);
    await isOffered(second.entry.id, 'rune');
    // An offer that Pim did not answer would have gone on to Rune as well.
    expect(await house.query(`SELECT "passed_by" AS by FROM "queue_entry" WHERE "id" = $1`, [second.entry.id])).toEqual(
      [{ by: [] }],
    );
  });

  it('says honestly how long it takes: a range, and no number when nobody is here', async () => {
    expect((await pim.desk()).estimate).toBeUndefined();
    await here(pim);
    expect((await pim.desk()).estimate?.toMs).toBe(1_000);
    const places = [];
    for (const name of ['Ada Quillfeather', 'Greta Moss', 'Tomasz Wren']) places.push(await ask({ name }));
    const last = await pim.entry(places.at(-1)?.token ?? '');
    expect(last.place).toBe(3);
    const { fromMs = 0, aboutMs = 0, toMs = 0 } = last.estimate ?? {};
    expect(fromMs < aboutMs && aboutMs < toMs && aboutMs > 10 * 60_000).toBe(true);
  });
});

describe('the request page', () => {
  it('says that the queue is full or the desk closed before anybody types, and takes nothing then', async () => {
    for (let i = 0; i < 6; i++) await ask();
    expect([(await pim.desk()).isFull, await failure(ask())]).toEqual([true, 'QUEUE_FULL']);
    const shut = await House.open({
      env: { PORCH_OFFICE_HOURS: 'Mon 00:00-00:01', PORCH_TIME_ZONE: 'Pacific/Kiritimati' },
    });
    const rest = await shut.signedIn();
    const { isOpen, opensAtMs } = await rest.desk();
    // Open one minute a week: whatever the time is, the next opening lies within a week.
    expect([isOpen, (opensAtMs ?? 0) - Date.now() < 7 * 86_400_000]).toEqual([false, true]);
    expect(
      await failure(rest.request({ name: 'A', address: 'a', topic: 'Printing', language: 'en', description: 'x' })),
    ).toBe('DESK_CLOSED');
    await shut.close();
  });

  it('tells of known faults, counts who has them too, and tells the parent ticket', async () => {
    const fault = await pim.publishKnownFault({
      topic: 'Printing',
      text: 'All printers of Tern Quay are down.',
      ticketRef: 'mf-201',
    });
    expect((await pim.desk()).knownFaults.map((n) => n.text)).toEqual(['All printers of Tern Quay are down.']);
    const who = { name: 'Ada Quillfeather', address: 'ada.quillfeather@marrowick.example' };
    expect((await pim.happensToo(fault.id, who)).happensToCount).toBe(1);
    await until('the ticket', async () =>
      (await (await fetch(`${house.ticketsUrl}/t/MF-201`)).text()).includes('happens to them, too'),
    );
    await pim.endKnownFault(fault.id);
    expect(await failure(pim.happensToo(fault.id, who))).toBe('KNOWN_FAULT_NOT_FOUND');
  });

  it('takes who presses “Get help now” on their own ticket, with the ticket, by a signed word of the ticket system only', async () => {
    const answer = await fetch(`${house.ticketsUrl}/t/MF-204/help-now`, { method: 'POST', redirect: 'manual' });
    const place = /#place=([\w-]+)$/.exec(answer.headers.get('location') ?? '')?.[1] ?? '';
    expect((await pim.entry(place)).entry).toMatchObject({
      ticketRef: 'MF-204',
      name: 'Ada Quillfeather',
      state: 'waiting',
    });
    const forged = await fetch(`${house.url}/api/webhooks/help-wanted`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'porch-signature': '00'.repeat(32) },
      body: JSON.stringify({
        deliveryId: 'x',
        sentAtMs: Date.now(),
        ref: 'MF-204',
        requester: { name: 'X', address: 'x' },
      }),
    });
    expect(forged.status).toBe(401);
  });
});
