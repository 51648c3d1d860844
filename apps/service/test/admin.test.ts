import { House, RawProgram, until } from '@porch/testkit';
import { HEARTBEAT_MS } from '@porch/wire';
import { spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';

/* The operator's second program, beside a service that runs. */
let house: House;
beforeAll(async () => {
  house = await House.open({ env: { PORCH_PUBLIC_URL: 'https://help.marrowick.example' } });
});
afterAll(() => house.close());

const admin: House['admin'] = (...how) => house.admin(...how);
const password = 'a long enough password';
const add = (email: string, ...more: string[]) =>
  admin(['technician', 'add', '--name', 'Tove Ulvang', '--email', email, '--password-stdin', ...more], password);
const signIn = (email: string, word: string) =>
  fetch(`${house.url}/api/sign-in`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email, password: word, keep: 'token' }),
  });

it('adds technicians who can sign in at once, and puts out whoever is disabled, live', async () => {
  const email = 'tove.ulvang@marrowick.example';
  expect(await add(email, '--team', 'Pier Systems', '--json')).toMatchObject({ code: 0 });
  expect((await add(email)).err).toContain('already');
  expect((await add('no address')).code).toBe(1);
  expect(
    (await admin(['technician', 'add', '--name', 'X', '--email', 'x@marrowick.example', '--password-stdin'], 'short'))
      .err,
  ).toContain('at least 12');
  const first = await signIn(email, password);
  expect(first.status).toBe(200);
  const { token } = (await first.json()) as { token: string };
  const call = (path: string, method = 'GET') =>
    fetch(house.url + path, {
      method,
      headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
      ...(method === 'POST' ? { body: '{}' } : {}),
    });
  // Known to colleagues without a restart.
  await until('her to be listed', async () => (await (await call('/api/technicians')).text()).includes('Tove Ulvang'));
  const started = (await (await call('/api/sessions', 'POST')).json()) as { session: { id: string } };
  const pass = (await (await call(`/api/sessions/${started.session.id}/live`, 'POST')).json()) as {
    pass: string;
    sessionId: string;
    liveUrl: string;
  };
  // The public address decides where the live connection is, and that it is encrypted.
  expect(pass.liveUrl).toBe('wss://help.marrowick.example/live');
  const live = await new RawProgram(house.liveUrl).comeIn(pass);
  // However long the command takes to start on a busy machine: who is silent meanwhile is ended for that.
  const beats = setInterval(() => live.say({ type: 'beat', sentAtMs: 0 }), HEARTBEAT_MS);
  expect((await admin(['technician', 'disable', email])).code).toBe(0);
  expect((await live.closed).reason).toBe('SIGN_IN_NEEDED');
  clearInterval(beats);
  expect((await call('/api/me')).status).toBe(401);
  expect((await signIn(email, password)).status).toBe(401);
  expect((await admin(['technician', 'enable', email])).code).toBe(0);
  expect((await admin(['technician', 'password', email, '--password-stdin'], 'another long password')).code).toBe(0);
  expect((await signIn(email, password)).status).toBe(401);
  expect((await signIn(email, 'another long password')).status).toBe(200);
  expect((await admin(['technician', 'list'])).out).toContain('Tove Ulvang');
});

it('says of everything whether it is well and what to do, and what is wrong with a setting', async () => {
  const well = await admin(['check', '--json']);
  const findings = (JSON.parse(well.out) as { items: { what: string; isWell: boolean }[] }).items;
  expect(
    findings.filter((f) => ['database', 'tables', 'clock', 'technicians', 'encryption'].includes(f.what)),
  ).toHaveLength(5);
  expect([well.code, findings.find((f) => f.what === 'tables')?.isWell]).toEqual([0, true]);
  const plain = await admin(['check'], '', { PORCH_PUBLIC_URL: 'http://help.marrowick.example' });
  expect([plain.code, plain.out]).toEqual([1, expect.stringContaining('must be https')]);
  const away = await admin(['check'], '', { PORCH_DATABASE_URL: 'postgres://nobody@127.0.0.1:1/none' });
  expect([away.code, away.out]).toEqual([1, expect.stringContaining('cannot be reached')]);
  const wrong = await admin(['check'], '', { PORCH_PORTT: '1' });
  expect([wrong.code, wrong.err]).toEqual([2, expect.stringContaining('PORCH_PORTT')]);
  expect((await admin(['migrate'])).out).toContain('Nothing was due');
});

it('the service says how it is to whoever runs it: health, readiness, figures, headers', async () => {
  const text = async (path: string) => (await fetch(house.url + path)).text();
  expect(await text('/healthz')).toBe('{"is":"alive"}');
  expect(await text('/readyz')).toBe('{"is":"ready"}');
  const figures = await text('/metrics');
  for (const name of [
    'porch_live_sockets',
    'porch_waiting_customers',
    'porch_refusals_total',
    'porch_nodejs_eventloop_lag_seconds',
  ])
    expect(figures).toContain(name);
  const answer = await fetch(`${house.url}/api/door`);
  expect(answer.headers.get('strict-transport-security')).toContain('max-age=');
  expect(answer.headers.get('permissions-policy')).toContain('geolocation=()');
  expect(answer.headers.get('cache-control')).toBe('no-store');
  expect(answer.headers.get('content-security-policy')).toContain("connect-src 'self' wss://help.marrowick.example");
  expect(answer.headers.get('x-request-id')).toMatch(/^[0-9a-f-]{36}$/);
  const cookie = await fetch(`${house.url}/api/sign-in`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email: 'pim.aldersey@marrowick.example', password: 'x', keep: 'cookie' }),
  });
  expect(cookie.status).toBe(401);
});

it('refuses a second process on the same records, and says why', async () => {
  const second = await new Promise<{ code: number | null; err: string }>((resolve) => {
    const child = spawn(process.execPath, [join(inject('root'), 'dist', 'service.mjs')], {
      env: { ...process.env, ...house.settings(), PORCH_PORT: '0' },
    });
    let err = '';
    child.stderr.on('data', (part: Buffer) => (err += part.toString()));
    child.on('close', (code) => resolve({ code, err }));
  });
  expect([second.code, second.err]).toEqual([1, expect.stringContaining('another process serves these records')]);
  expect((await fetch(`${house.url}/readyz`)).status).toBe(200);
});

it('changes the secret without losing what is open, and works on when the secret is lost', async () => {
  const pim = await house.signedIn();
  const before = await pim.start({});
  const restart = async () => {
    await house.killService();
    await house.startService();
  };
  expect(await admin(['secret', 'rotate', '--json'])).toMatchObject({ code: 0 });
  await restart();
  expect((await pim.session(before.session.id)).code?.digits).toBe(before.code.digits);
  expect((await pim.start({})).link).toBe(before.link);
  await pim.join({ code: before.code.digits, as: 'page' });
  expect((await pim.start({})).session.id, 'the first has somebody now').not.toBe(before.session.id);

  const open = await pim.start({});
  writeFileSync(join(house.folder, 'secret'), randomBytes(32).toString('hex'), { mode: 0o600 });
  await restart();
  const seen = (await pim.porch()).sessions.find(({ id }) => id === open.session.id);
  expect([seen?.id, seen?.code]).toEqual([open.session.id, undefined]);
  const again = await pim.start({});
  expect([again.session.id, again.link]).toEqual([open.session.id, '']);
  expect(again.code.digits).not.toBe(open.code.digits);
  await pim.join({ link: open.link.split('/').at(-1) ?? '', as: 'page' });
});

it('sends pages as the build compressed them, and says that hashed files never change', async () => {
  const get = async (path: string, coding: string) => {
    const answer = await fetch(house.url + path, { headers: { 'accept-encoding': coding } });
    const header = (name: string) => answer.headers.get(name);
    return { text: await answer.text(), coding: header('content-encoding'), cache: header('cache-control') };
  };
  for (const [page, prefix] of [
    ['/console/', '/console/assets/'],
    ['/', '/assets/'],
  ] as const) {
    const { text, cache } = await get(page, 'br');
    expect(cache).toBe('no-cache');
    const script = text.match(/src="([^"]+\.js)"/)?.[1] ?? '';
    expect(script).toContain(prefix);
    const [plain, brotli, gzip] = await Promise.all(['identity', 'br', 'gzip'].map((coding) => get(script, coding)));
    expect([plain?.coding, brotli?.coding, gzip?.coding]).toEqual([null, 'br', 'gzip']);
    expect(brotli?.text === plain?.text && gzip?.text === plain?.text).toBe(true);
    expect(brotli?.cache).toBe('public, max-age=31536000, immutable');
  }
});
