import type { LiveConnection } from '@porch/client';
import { House, RawProgram, until, failure } from '@porch/testkit';
import { randomBytes, randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/* What a session may grow to, each at its limit: one more is refused, and what protects people still goes through. */
const MOST = 100;
let house: House;
beforeAll(async () => {
  house = await House.open({ env: { PORCH_MAX_ENTRIES: String(MOST) } });
});
afterAll(() => house.close());

const say = (live: LiveConnection) =>
  live.command({ type: 'sendChat', messageId: randomUUID(), text: 'One more word.' });
const count = async (what: string, id: string): Promise<number> =>
  Number((await house.query<{ n: string }>(`SELECT count(*) AS n FROM ${what} WHERE "session_id" = $1`, [id]))[0]?.n);

describe('the ledger of a session', () => {
  it('takes so many entries, then only what ends, takes back and has happened, and of that not without end', async () => {
    const { technician, link, id } = await house.sessionUnderWay();
    const doorstep = await house.bareDoorstep({ link });
    await until('Doorstep', () => technician.state.holderId);
    while (technician.entries.length < MOST) await say(technician);
    expect(await failure(say(technician))).toBe('SESSION_TOO_LONG');
    let fact = 0;
    const tellFact = () => failure(doorstep.command({ type: 'setAway', isAway: ++fact % 2 === 1, fact }, randomUUID()));
    expect(await tellFact(), 'what has happened').toBe('no failure');
    while (doorstep.entries.length < 2 * MOST) expect(await tellFact()).toBe('no failure');
    expect(await tellFact(), 'so many did not happen').toBe('SESSION_TOO_LONG');
    expect(await count('ledger_row', id)).toBe(2 * MOST);
    expect(
      await failure(technician.command({ type: 'endSession', reason: 'technician', why: '', fact: undefined })),
    ).toBe('no failure');
    expect(await failure(technician.command({ type: 'logOutcome', outcome: 'resolved', note: '', minutes: 1 }))).toBe(
      'no failure',
    );
  });

  it('takes a tenth as many asides', async () => {
    const { technician } = await house.sessionUnderWay();
    for (let i = 0; i < MOST / 10; i++) await technician.aside('Between us.');
    expect(await failure(technician.aside('One more.'))).toBe('SESSION_TOO_LONG');
    expect(await failure(say(technician)), 'and goes on').toBe('no failure');
  });
});

describe('answers to commands', () => {
  it('that wrote nothing are kept only so often', async () => {
    const { technician, customer, id } = await house.sessionUnderWay();
    const withoutEffect = { type: 'takeBackAsk' as const, askId: randomUUID() };
    const codes = new Set<string>();
    for (let i = 0; i < 600; i += 100)
      for (const code of await Promise.all(
        Array.from({ length: 100 }, () => failure(technician.command(withoutEffect))),
      ))
        codes.add(code);
    expect([...codes]).toEqual(['no failure']);
    expect(await count('command_answer', id)).toBeLessThanOrEqual(technician.entries.length + 500);
    expect(await failure(say(customer)), 'and goes on').toBe('no failure');
  });
});

describe('passes', () => {
  it('grow with nobody’s looks at the door, and end at a limit', async () => {
    const { customerRest, link, id } = await house.sessionUnderWay();
    const before = await count('door_pass', id);
    for (let i = 0; i < 30; i++) await customerRest.door();
    expect(await count('door_pass', id)).toBe(before);
    // As many as a session may have, made as a service that was attacked for a day would have them.
    await house.query(
      `INSERT INTO "door_pass" SELECT (jsonb_populate_record(p, jsonb_build_object('token_hash', '\\x' || md5(n::text) || md5(n::text)))).*
       FROM "door_pass" p, generate_series(1, 300) n
       WHERE p."token_hash" = (SELECT "token_hash" FROM "door_pass" WHERE "session_id" = $1 LIMIT 1)
       LIMIT greatest(0, 300 - (SELECT count(*) FROM "door_pass" WHERE "session_id" = $1))`,
      [id],
    );
    expect(await count('door_pass', id)).toBe(300);
    expect(await failure(house.bareDoorstep({ link }))).toBe('TOO_MANY_ATTEMPTS');
    expect(await failure(customerRest.door()), 'who is in stays in').toBe('no failure');
  });
});

describe('one connection', () => {
  it('has what it may send read at a pace, and is shown out for pictures without measure', async () => {
    const { customer, id } = await house.sessionUnderWay();
    const pim = await house.signedIn();
    const program = await new RawProgram(house.liveUrl).comeIn(await pim.livePass(id));
    const junk = randomBytes(64);
    for (let i = 0; i < 7_000; i++) program.socket.send(junk);
    expect(['TOO_MANY_MESSAGES', 'MESSAGE_INVALID']).toContain((await program.closed).reason);
    expect(await failure(say(customer))).toBe('no failure');
  });
});
