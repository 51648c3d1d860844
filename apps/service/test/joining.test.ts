import { makeCodeDigits } from '@porch/core';
import { attemptLimits } from '../src/modules/people/attempts.ts';
import { emailOf, PASSWORD } from '@porch/demo';
import { House, until, failure } from '@porch/testkit';
import { doWork, type Work } from '@porch/wire';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open({ env: { PORCH_CODE_MINUTES: '30' } });
});
afterAll(() => house.close());
const resetAttempts = () => house.query('DELETE FROM "attempt"');
const unused = () => makeCodeDigits((below) => Math.floor(Math.random() * below));

describe('a one-time code', () => {
  it('is shown again until somebody joins with it, and then a new one is made', async () => {
    const pim = await house.signedIn();
    const first = await pim.start({});
    const again = await pim.start({});
    expect([again.code.digits, again.isNew]).toEqual([first.code.digits, false]);
    await house.customer({ code: first.code.digits });
    expect((await pim.start({})).code.digits).not.toBe(first.code.digits);
  });

  it('tells each kind of wrong code apart, and a mistyped one costs no attempt', async () => {
    await resetAttempts();
    const pim = await house.signedIn();
    const join = (code: string) => failure(pim.join({ code, as: 'page' }));
    const { code, session } = await pim.start({ ticketRef: undefined as never });
    const mistyped = code.digits.slice(0, 7) + String((Number(code.digits[7]) + 1) % 10);
    for (let i = 0; i < 15; i++) expect(await join(mistyped)).toBe('CODE_MISTYPED');
    expect(await join('4127')).toBe('INVALID_REQUEST');
    expect(await join(unused())).toBe('CODE_UNKNOWN');
    await house.customer({ code: code.digits });
    expect(await join(code.digits), 'a second customer with the same code').toBe('CODE_USED');
    const withdrawn = await pim.newCode(session.id);
    await pim.withdrawCode(session.id);
    expect(await join(withdrawn.digits)).toBe('CODE_WITHDRAWN');
    const expired = await pim.newCode(session.id);
    await house.query(`UPDATE "one_time_code" SET "expires_at" = now() - interval '1 second' WHERE "id" = $1`, [
      expired.codeId,
    ]);
    expect(await join(expired.digits)).toBe('CODE_EXPIRED');
  });

  it('lets in one page and one Doorstep of the same customer, and no second of either', async () => {
    await resetAttempts();
    const pim = await house.signedIn();
    const { code, session } = await pim.start({});
    await house.customer({ code: code.digits });
    const doorstep = await house.bareDoorstep({ code: code.digits });
    expect([doorstep.sessionId, doorstep.state.holderId]).toEqual([session.id, doorstep.participantId]);
    for (const as of ['page', 'doorstep'] as const)
      expect(await failure(pim.join({ code: code.digits, as }))).toBe('CODE_USED');
  });

  it('takes as long to say unknown as to say expired', async () => {
    await resetAttempts();
    const pim = await house.signedIn();
    const { code } = await pim.start({});
    await house.query(`UPDATE "one_time_code" SET "expires_at" = now() - interval '1 second' WHERE "id" = $1`, [
      code.codeId,
    ]);
    const timed = async (digits: string) => {
      const startedAt = performance.now();
      await failure(pim.join({ code: digits, as: 'page' }));
      return performance.now() - startedAt;
    };
    // Both answers wait for the same fixed time; how fast the machine is does not matter for that.
    for (const digits of [unused(), code.digits]) expect(await timed(digits)).toBeGreaterThanOrEqual(149);
  });

  it('stops guessing by address, and forgets nothing over a restart', async () => {
    await resetAttempts();
    const pim = await house.signedIn();
    const guess = () => failure(pim.join({ code: unused(), secondNumber: '123 456', as: 'page' }));
    for (let i = 0; i < 10; i++) expect(await guess()).toBe('CODE_UNKNOWN');
    expect(await guess()).toBe('TOO_MANY_ATTEMPTS');
    await house.killService();
    await house.startService();
    expect(await guess()).toBe('TOO_MANY_ATTEMPTS');
    await resetAttempts();
  });

  it('admits nobody alone once too many were guessed, from however many addresses, and with its second number everybody', async () => {
    const open = await House.open({ env: { PORCH_TRUST_PROXY: '1' } });
    const come = async (address: number, body: { code: string; secondNumber?: string }): Promise<string> => {
      const answer = await fetch(`${open.url}/api/door/join`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'x-forwarded-for': `198.51.100.${address}` },
        body: JSON.stringify({ ...body, as: 'page' }),
      });
      return answer.ok ? 'in' : ((await answer.json()) as { code: string }).code;
    };
    const pim = await open.signedIn();
    const { code } = await pim.start({ ticketRef: undefined as never });
    const old = await (await open.signedIn('Rune Takahashi')).start({ ticketRef: undefined as never });
    await open.query(`UPDATE "one_time_code" SET "expires_at" = now() - interval '1 second' WHERE "id" = $1`, [
      old.code.codeId,
    ]);
    // Whoever types a code of yesterday is not guessing: this leaves the budget as it is.
    for (let i = 0; i < 20; i++) expect(await come(i, { code: old.code.digits })).toBe('CODE_EXPIRED');

    const answers = await Promise.all(Array.from({ length: 200 }, (_, i) => come(i % 100, { code: unused() })));
    const looked = answers.filter((answer) => answer !== 'CODE_SECOND_NEEDED');
    expect(looked.length).toBeLessThanOrEqual(attemptLimits.codeAlonePerService.most);
    expect(new Set(looked)).toEqual(new Set(['CODE_UNKNOWN']));
    // Right and wrong get one answer: nobody learns anything of a code alone any longer.
    for (const digits of [code.digits, unused()]) expect(await come(200, { code: digits })).toBe('CODE_SECOND_NEEDED');
    const wrong = String((Number(code.secondNumber) + 1) % 1_000_000).padStart(6, '0');
    expect(await come(200, { code: code.digits, secondNumber: wrong })).toBe('CODE_UNKNOWN');
    expect(await come(200, { code: unused(), secondNumber: code.secondNumber })).toBe('CODE_UNKNOWN');
    expect(await come(200, { code: code.digits, secondNumber: '12' })).toBe('CODE_SECOND_NEEDED');
    expect(await come(201, { code: code.digits, secondNumber: code.secondNumber })).toBe('in');
    await open.close();
  });

  it('is guessed on fewer than one day in 10,000, with 50 of them open all day and every limit used up', () => {
    const { codeAlonePerService, codePairPerService } = attemptLimits;
    const codes = 10 ** 7 / 50;
    // A fixed window lets twice its tries through within any one day.
    const alone = (2 * codeAlonePerService.most * (86_400 / codeAlonePerService.windowSeconds)) / codes;
    const pairs = (codePairPerService.most * (86_400 / codePairPerService.windowSeconds)) / (codes * 10 ** 6);
    expect(alone + pairs).toBeLessThanOrEqual(1e-4);
  });

  it('changes by itself when the desk wants that, within the same end, and the old digits are withdrawn', async () => {
    const open = await House.open({ env: { PORCH_CODE_ROTATE_MINUTES: '0.02', PORCH_CODE_SINGLE_USE: 'yes' } });
    const pim = await open.signedIn();
    const { code, session } = await pim.start({ ticketRef: undefined as never });
    const digits = async () => (await pim.session(session.id)).code?.digits;
    await until('new digits', async () => (await open.query(`SELECT 1 FROM "one_time_code"`)).length > 1);
    const next = await digits();
    expect(next).not.toBe(code.digits);
    expect(await failure(pim.join({ code: code.digits, as: 'page' }))).toBe('CODE_WITHDRAWN');
    // Single use: the page's way in takes the code along, and Doorstep comes by the link of the page.
    const current = (await pim.newCode(session.id)).digits;
    const joined = await pim.join({ code: current, as: 'page' });
    expect(await failure(pim.join({ code: current, as: 'doorstep' }))).toBe('CODE_WITHDRAWN');
    await open.bareDoorstep({ link: joined.door.doorstepLink.split('/').at(-1) ?? '' });
    await open.close();
  });

  it('lies in the records neither readable nor as a plain hash', async () => {
    const pim = await house.signedIn();
    const { code, link } = await pim.start({});
    const dump = JSON.stringify(
      await house.query(
        `SELECT encode("lookup", 'escape') a, encode("sealed_digits", 'escape') b FROM "one_time_code"`,
      ),
    );
    expect(dump).not.toContain(code.digits);
    const rows = JSON.stringify([
      await house.query(`SELECT encode("token_hash", 'base64') t FROM "door_pass"`),
      await house.query(`SELECT encode("token_hash", 'base64') t FROM "sign_in"`),
    ]);
    expect(rows).not.toContain(link.split('/').at(-1)?.slice(0, 12));
  });
});

describe('signing in', () => {
  it('refuses a wrong password in the same words as a wrong address', async () => {
    const { signIn } = await house.signedIn('Ilse Marchetti');
    expect(await failure(signIn('nobody@marrowick.example', 'x', 'token'))).toBe('SIGN_IN_FAILED');
    expect(await failure(signIn(emailOf('Ilse Marchetti'), 'wrong', 'token'))).toBe('SIGN_IN_FAILED');
    await resetAttempts();
  });

  it('is locked to nobody by a stranger’s wrong passwords: the next try costs work, each its own, and ever more', async () => {
    await resetAttempts();
    const email = emailOf('Ilse Marchetti');
    const plain = async (password: string, work?: Work, to = email) => {
      const answer = await fetch(`${house.url}/api/sign-in`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'x-porch': '1' },
        body: JSON.stringify({ email: to, password, keep: 'token', work }),
      });
      const { code = 'in', details } = (await answer.json()) as { code?: string; details?: Wanted };
      return { code, details };
    };
    type Wanted = { challenge: string; bits: number };
    const wanted = async (): Promise<Wanted> => {
      const { code, details } = await plain(PASSWORD);
      expect(code).toBe('WORK_NEEDED');
      return details as Wanted;
    };
    for (let i = 0; i < 5; i++) expect((await plain('wrong')).code).toBe('SIGN_IN_FAILED');
    const first = await wanted();
    const work = await doWork(first.challenge, first.bits);
    // Not done, done for somebody else, made easier, or used before: all the same as none.
    expect((await plain(PASSWORD, { ...work, answer: 'lazy' })).code).toBe('WORK_NEEDED');
    const easier = { challenge: first.challenge.replace(`.${first.bits}.`, '.1.'), answer: 'a' };
    expect((await plain(PASSWORD, easier)).code).toBe('WORK_NEEDED');
    const rune = emailOf('Rune Takahashi');
    for (let i = 0; i < 5; i++) await plain('wrong', undefined, rune);
    expect((await plain(PASSWORD, work, rune)).code).toBe('WORK_NEEDED');
    expect((await plain('wrong', work)).code).toBe('SIGN_IN_FAILED');
    expect((await plain(PASSWORD, work)).code).toBe('TOO_MANY_ATTEMPTS');
    // What everybody's program does by itself, whoever guesses meanwhile.
    const { signIn } = await house.signedIn('Pim Aldersey');
    expect((await signIn(email, PASSWORD, 'token')).technician.name).toBe('Ilse Marchetti');
    await house.query(`UPDATE "attempt" SET "count" = 40 WHERE "bucket" = $1`, [`sign-in-worked:${email}`]);
    expect((await wanted()).bits).toBe(first.bits + 4);
    await resetAttempts();
  });
  it('does not let a cookie act without our own header, and ends with signing out', async () => {
    const answer = await fetch(`${house.url}/api/sign-in`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ email: emailOf('Pim Aldersey'), password: PASSWORD, keep: 'cookie' }),
    });
    const set = answer.headers.getSetCookie()[0] ?? '';
    expect(set).toMatch(/HttpOnly/);
    expect(set).toMatch(/SameSite=Strict/);
    const cookie = set.split(';')[0] ?? '';
    const start = (headers: Record<string, string>) =>
      fetch(`${house.url}/api/sessions`, {
        method: 'POST',
        headers: { cookie, 'content-type': 'application/json', ...headers },
        body: '{}',
      }).then((a) => a.status);
    expect([await start({}), await start({ 'x-porch': '1' })]).toEqual([401, 200]);
    await fetch(`${house.url}/api/sign-out`, { method: 'POST', headers: { cookie, 'x-porch': '1' } });
    expect(await start({ 'x-porch': '1' })).toBe(401);
  });
});

describe('the queue', () => {
  it('keeps a place over leaving and coming back, and leads into the session once a technician takes it', async () => {
    const pim = await house.signedIn();
    const entry = {
      name: 'Bettina Crole',
      address: '555-0101',
      topic: 'Printing',
      language: 'en' as const,
      description: 'Half a barcode',
    };
    const [first, second] = [await pim.request(entry), await pim.request({ ...entry, name: 'Ada Quillfeather' })];
    expect([first.place, second.place]).toEqual([1, 2]);
    const waiting = (await pim.porch()).waiting.map((w) => w.name);
    expect(waiting).toEqual(['Bettina Crole', 'Ada Quillfeather']);
    const rune = await house.signedIn('Rune Takahashi');
    // Two technicians reach for the same person at once: one gets her.
    const both = await Promise.all([pim, rune].map((t) => failure(t.start({ queueEntryId: first.entry.id }))));
    expect(both.sort()).toEqual(['ENTRY_NOT_WAITING', 'no failure']);
    const status = await pim.entry(first.token ?? '');
    const customer = await house.customer({ link: status.joinToken ?? '' });
    expect(customer.live.state).toMatchObject({ behind: 'queue-entry', customerName: 'Bettina Crole' });
    expect((await pim.leaveQueue(second.token ?? '')).entry.state).toBe('left');
    expect(await failure(pim.entry('no such token'))).toBe('ENTRY_NOT_FOUND');
  });
  it('is told to the porch without asking again', async () => {
    const pim = await house.signedIn();
    const abort = new AbortController();
    const feed = await fetch(`${house.url}/api/feed`, {
      headers: { authorization: `Bearer ${pim.token}` },
      signal: abort.signal,
    });
    let text = '';
    const reading = (async () => {
      for await (const part of feed.body ?? []) text += new TextDecoder().decode(part);
    })().catch(() => undefined);
    await until('the first porch', () => text.includes('event: porch'));
    await pim.request({
      name: 'Jonas Ferreday',
      address: '555-0102',
      topic: 'On board',
      language: 'no',
      description: 'Tide almanac',
    });
    await until('Jonas on the porch', () => text.includes('Jonas Ferreday'));
    abort.abort();
    await reading;
  });
});

it('describes its REST interface as OpenAPI 3.1, made from the contract', async () => {
  const document = (await (await fetch(`${house.url}/api/v1/openapi.json`)).json()) as {
    openapi: string;
    paths: Record<string, Record<string, { requestBody?: unknown }>>;
  };
  expect(document.openapi).toBe('3.1.0');
  expect(Object.keys(document.paths)).toEqual(
    expect.arrayContaining(['/sign-ins', '/porch', '/sessions/{id}/ledger', '/door/passes']),
  );
  expect(JSON.stringify(document.paths['/door/passes']?.['post']?.requestBody)).toContain('WayIn');
});

it('answers bad requests with what is wrong and never with what was sent', async () => {
  const secret = 'harbour-secret-never-repeated';
  const post = (body: string) =>
    fetch(`${house.url}/api/sign-in`, { method: 'POST', headers: { 'content-type': 'application/json' }, body });
  for (const body of [
    '{',
    JSON.stringify({ email: 5, password: secret }),
    JSON.stringify({ email: 'a', password: secret, keep: 'cookie', more: 1 }),
    JSON.stringify({ email: 'x'.repeat(70_000) }),
  ]) {
    const answer = await post(body);
    expect(answer.status).toBeLessThan(500);
    expect(await answer.text()).not.toContain(secret);
  }
  expect((await fetch(`${house.url}/api/nothing`)).status).toBe(404);
  expect((await fetch(`${house.url}/..%2f..%2fpackage.json`)).status).toBe(404);
});
