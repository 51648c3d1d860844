import { createConfig, lintFromString } from '@redocly/openapi-core';
import * as spectralCore from '@stoplight/spectral-core';
import * as spectralRules from '@stoplight/spectral-rulesets';
import { cleanAtBothSizes, House, Pages } from '@porch/testkit';
import { errorWords, operations } from '@porch/wire';
import openapiTS, { astToString } from 'openapi-typescript';
import { build } from 'esbuild';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import ts from 'typescript';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';

/* The API as somebody meets it who writes a program against it. */
let house: House;
let token: string;
beforeAll(async () => {
  house = await House.open({ hasPost: true, keepsLog: true });
  const answer = await post('/sign-ins', {
    email: 'pim.aldersey@marrowick.example',
    password: 'harbour-lamp-41',
    keep: 'token',
  });
  expect(answer.status).toBe(201);
  token = ((await answer.json()) as { token: string }).token;
});
afterAll(() => house.close());

type Headers = Readonly<Record<string, string>>;
const call = (method: string, path: string, body?: unknown, headers: Headers = {}) =>
  fetch(`${house.url}/api/v1${path}`, {
    method,
    headers: {
      ...(token ? { authorization: `Bearer ${token}` } : {}),
      ...(body === undefined ? {} : { 'content-type': 'application/json' }),
      ...headers,
    },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
const get = async (path: string) => (await call('GET', path)).json();
const post = (path: string, body?: unknown, headers: Headers = {}) => call('POST', path, body, headers);
interface Problem {
  type: string;
  title: string;
  status: number;
  detail: string;
  code: string;
}
const problem = async (answer: Response): Promise<Problem> => {
  expect(answer.headers.get('content-type')).toContain('application/problem+json');
  const found = (await answer.json()) as Problem;
  expect(found.status).toBe(answer.status);
  return found;
};
const booking = (purpose: string) => ({
  date: new Date(Date.now() + 3 * 86_400_000).toISOString().slice(0, 10),
  time: '10:00',
  customerName: 'Bettina Crole',
  address: 'bettina.crole@marrowick.example',
  purpose,
});

it('is described by a document in which linters find nothing', async () => {
  const text = JSON.stringify(await get('/openapi.json'));
  const config = await createConfig({ extends: ['recommended-strict'] });
  const redocly = await lintFromString({ source: text, absoluteRef: 'openapi.json', config });
  expect(redocly.map(({ ruleId, message, location }) => [ruleId, message, location[0]?.pointer])).toEqual([]);
  const spectral = new spectralCore.Spectral();
  spectral.setRuleset({ extends: [[spectralRules.oas, 'recommended']] } as unknown as spectralCore.RulesetDefinition);
  const found = await spectral.run(JSON.parse(text) as Record<string, unknown>);
  expect(found.map(({ code, message, path }) => [code, message, path.join('.')])).toEqual([]);
});

it('makes a client that compiles, and works', async () => {
  const folder = join(inject('root'), 'node_modules', '.cache', `client-${process.pid}`);
  mkdirSync(folder, { recursive: true });
  const types = astToString(await openapiTS((await get('/openapi.json')) as never));
  const typesFile = './api.ts';
  writeFileSync(join(folder, typesFile), types);
  const program = join(folder, 'client.ts');
  writeFileSync(
    program,
    `import createClient from 'openapi-fetch';
     import type { paths } from '${typesFile}';
     export async function use(baseUrl: string, token: string) {
       const client = createClient<paths>({ baseUrl, headers: { authorization: 'Bearer ' + token } });
       const { data: made } = await client.POST('/sessions', { body: {} });
       if (!made) throw new Error('no session');
       const preparedAt: string = made.session.preparedAt;
       const { data: one } = await client.GET('/sessions/{id}', { params: { path: { id: made.session.id } } });
       const { data: page } = await client.GET('/sessions', { params: { query: { limit: 1 } } });
       const { error } = await client.GET('/sessions/{id}', { params: { path: { id: crypto.randomUUID() } } });
       const code: string | undefined = error?.code;
       return { id: made.session.id, preparedAt, same: one?.id, items: page?.items.length, code };
     }`,
  );
  const compiled = ts.createProgram([program], {
    strict: true,
    noEmit: true,
    target: ts.ScriptTarget.ES2022,
    module: ts.ModuleKind.ESNext,
    moduleResolution: ts.ModuleResolutionKind.Bundler,
    allowImportingTsExtensions: true,
    skipLibCheck: true,
    types: [],
    lib: ['lib.es2022.d.ts', 'lib.dom.d.ts', 'lib.dom.iterable.d.ts'],
  });
  expect(ts.getPreEmitDiagnostics(compiled).map((d) => ts.flattenDiagnosticMessageText(d.messageText, ' '))).toEqual(
    [],
  );
  const outfile = join(folder, 'client.mjs');
  await build({ entryPoints: [program], bundle: true, format: 'esm', platform: 'node', outfile });
  const { use } = (await import(/* @vite-ignore */ pathToFileURL(outfile).href)) as {
    use(url: string, token: string): Promise<Record<string, unknown>>;
  };
  const used = await use(`${house.url}/api/v1`, token);
  expect(used).toMatchObject({ same: used['id'], items: 1, code: 'SESSION_NOT_FOUND' });
  expect(used['preparedAt']).toMatch(/^\d{4}-\d\d-\d\dT[\d:.]+Z$/);
});

it('refuses with problems that say what to do, and with the right status', async () => {
  const wrong = await problem(await post('/bookings', { date: 'soon' }));
  expect(wrong).toMatchObject({ status: 400, code: 'INVALID_REQUEST', type: '/api/docs#INVALID_REQUEST' });
  expect(wrong.detail).toContain('time');
  expect(await problem(await call('GET', `/sessions/${crypto.randomUUID()}`))).toMatchObject({ status: 404 });
  expect(await problem(await call('GET', '/no-such-thing'))).toMatchObject({ status: 404, code: 'NOT_FOUND' });
  const patch = await call('PATCH', '/bookings', {});
  expect(patch.headers.get('allow')).toBe('GET, POST');
  expect(await problem(patch)).toMatchObject({ status: 405, code: 'METHOD_NOT_ALLOWED' });
  const stranger = await fetch(`${house.url}/api/v1/porch`);
  expect(await problem(stranger)).toMatchObject({ status: 401, code: 'SIGN_IN_NEEDED' });
  expect(stranger.headers.get('cache-control')).toBe('no-store');
  expect(await problem(await post('/sessions', { ticketRef: 'a\u0000b' }))).toMatchObject({ status: 400 });
  expect((await post('/queue/not-an-id/not-now')).status).toBe(400);
  // As ever for programs of before.
  const old = await fetch(`${house.url}/api/sessions/${crypto.randomUUID()}`, {
    headers: { authorization: `Bearer ${token}` },
  });
  expect(await old.json()).toEqual({
    code: 'SESSION_NOT_FOUND',
    message: errorWords.SESSION_NOT_FOUND,
    details: {},
  });
});

it('does once what is asked with one key, and says so when the key was for something else', async () => {
  const key = { 'idempotency-key': crypto.randomUUID() };
  const [a, b] = await Promise.all([post('/bookings', booking('Once'), key), post('/bookings', booking('Once'), key)]);
  const [first, second] = a.status === 201 ? [a, b] : [b, a];
  expect(first.status).toBe(201);
  const made = (await first.json()) as { id: string };
  if (second.status === 409) expect((await problem(second)).code).toBe('ONCE_UNDER_WAY');
  else expect(await second.json()).toEqual(made);
  expect(await (await post('/bookings', booking('Once'), key)).json()).toEqual(made);
  expect(await problem(await post('/bookings', booking('Twice'), key))).toMatchObject({
    status: 422,
    code: 'ONCE_REUSED',
  });
  const { items } = (await get('/bookings')) as { items: { purpose: string }[] };
  expect(items.filter(({ purpose }) => purpose === 'Once')).toHaveLength(1);
  expect((await post('/bookings', booking('x'), { 'idempotency-key': 'short' })).status).toBe(400);
  // What was refused was not done: mended, the same key does it.
  const another = { 'idempotency-key': crypto.randomUUID() };
  const past = { ...booking('Past'), date: '2020-01-01' };
  expect((await problem(await post('/bookings', past, another))).code).toBe('BOOKING_TIME');
  expect((await post('/bookings', booking('Past'), another)).status).toBe(201);
  // Another technician's key is another key.
  const rune = await house.signedIn('Rune Takahashi');
  expect(
    (await post('/bookings', booking('Once'), { ...key, authorization: `Bearer ${rune.token ?? ''}` })).status,
  ).toBe(201);
  const kept = JSON.stringify(await house.query(`SELECT encode("sealed_answer", 'escape') AS a FROM "once_answer"`));
  expect(kept, 'nothing personal lies about').not.toContain('Crole');
  const started = { 'idempotency-key': crypto.randomUUID() };
  const { session } = (await (await post('/sessions', {}, started)).json()) as { session: { id: string } };
  expect(await house.query(`SELECT 1 FROM "once_answer" WHERE "session_id" = $1`, [session.id])).toHaveLength(1);
  // A process that died while it did it leaves nobody in doubt about what is known.
  await house.query(`UPDATE "once_answer" SET "sealed_answer" = NULL, "at" = "at" - interval '2 minutes'`);
  expect(await problem(await post('/sessions', {}, started))).toMatchObject({ status: 409, code: 'ONCE_UNKNOWN' });
});

it('lets nobody overwrite what they have not seen', async () => {
  const { id } = (await (await post('/bookings', booking('Moved'))).json()) as { id: string };
  const read = await call('GET', `/bookings/${id}`);
  const etag = read.headers.get('etag') ?? '';
  expect(etag).toBe('"0"');
  const to = (time: string) => ({ date: booking('').date, time });
  const moved = await call('PUT', `/bookings/${id}/time`, to('11:00'), { 'if-match': etag });
  expect([moved.status, moved.headers.get('etag')]).toEqual([200, '"1"']);
  const late = await call('PUT', `/bookings/${id}/time`, to('12:00'), { 'if-match': etag });
  expect(await problem(late)).toMatchObject({ status: 412, code: 'CHANGED_MEANWHILE' });
  expect((await call('PUT', `/bookings/${id}/time`, to('12:00'), { 'if-match': 'W/"1"' })).status).toBe(400);
  expect((await post(`/bookings/${id}/cancellation`, {}, { 'if-match': '"1"' })).status).toBe(200);
  expect(((await (await call('GET', `/bookings/${id}`)).json()) as { isCancelled: boolean }).isCancelled).toBe(true);
});

it('hands lists out in pages, and nobody a page of ten thousand', async () => {
  interface Page {
    items: { id: string; name: string; team: string }[];
    next?: string;
  }
  const all = (await get('/technicians')) as Page;
  const seen: string[] = [];
  let cursor = '';
  do {
    const page = (await get(`/technicians?limit=2${cursor && `&cursor=${cursor}`}`)) as Page;
    expect(page.items.length).toBeLessThanOrEqual(2);
    seen.push(...page.items.map(({ id }) => id));
    cursor = page.next ?? '';
  } while (cursor);
  expect(seen).toEqual(all.items.map(({ id }) => id));
  const pier = (await get('/technicians?team=Pier%20Systems')) as Page;
  expect(pier.items.map(({ id }) => id)).toEqual(
    all.items.filter(({ team }) => team === 'Pier Systems').map(({ id }) => id),
  );
  expect((await problem(await call('GET', '/technicians?limit=10000'))).code).toBe('INVALID_REQUEST');
  const { next } = (await get('/technicians?limit=1')) as Page;
  expect((await problem(await call('GET', `/devices?cursor=${next ?? ''}`))).code).toBe('CURSOR_UNKNOWN');
  expect((await problem(await call('GET', '/technicians?cursor=%F0%9F%9A%A2'))).code).toBe('CURSOR_UNKNOWN');
  const paths = operations.filter(({ answer }) => JSON.stringify(Object.keys(shapeOf(answer))).includes('items'));
  expect(paths.length).toBeGreaterThan(8);
});
const shapeOf = (schema: unknown) => (schema as { shape?: object }).shape ?? {};

it('calls languages by their standard tags', async () => {
  const { topics } = (await get('/door')) as { topics: { topic: string; words: Record<string, string> }[] };
  expect(topics.find(({ topic }) => topic === 'Printing')?.words).toEqual({
    en: 'Printing',
    nb: 'Utskrift',
    de: 'Drucken',
  });
  const asked = { name: 'Samir Oduya', address: '', topic: 'Printing', description: 'Papirstopp' };
  const made = (await (await post('/door/requests', { ...asked, language: 'nb' })).json()) as {
    entry: { language: string };
  };
  expect(made.entry.language).toBe('nb');
  expect(await house.query(`SELECT "language" FROM "queue_entry"`)).toEqual([{ language: 'no' }]);
  expect((await problem(await post('/door/requests', { ...asked, language: 'no' }))).code).toBe('INVALID_REQUEST');
});

it('serves programs of before as ever', async () => {
  const old = async (path: string) =>
    (await fetch(`${house.url}/api${path}`, { headers: { authorization: `Bearer ${token}` } })).json();
  const before = (await old('/bookings')) as { id: string; startsAtMs: number }[];
  const now = ((await get('/bookings')) as { items: { id: string; startsAt: string }[] }).items;
  expect(before.map(({ id, startsAtMs }) => [id, startsAtMs])).toEqual(
    now.map(({ id, startsAt }) => [id, Date.parse(startsAt)]),
  );
  expect(await old('/technicians')).toHaveLength(6);
  expect(((await old('/sessions/find')) as { items: unknown[] }).items.length).toBeGreaterThan(0);
  expect(Array.isArray(await old('/sessions'))).toBe(true);
});

it('is a page for people, too, at both sizes, with everything on it', async () => {
  const pages = await Pages.connect();
  const { page, problems } = await pages.window();
  await page.goto(`${house.url}/api/docs`);
  for (const { id } of operations) expect(await page.locator(`[id="${id}"]`).count(), id).toBe(1);
  for (const code of Object.keys(errorWords)) expect(await page.locator(`[id="${code}"]`).count(), code).toBe(1);
  await cleanAtBothSizes(page, 'the page of the API');
  const dead = await page.evaluate(
    () =>
      [...document.querySelectorAll('a[href^="#"]')].filter(
        (a) => !document.getElementById((a.getAttribute('href') ?? '').slice(1)),
      ).length,
  );
  expect([dead, problems]).toEqual([0, []]);
  await pages.close();
});

it('holds to its contract: nothing was refused with what it does not say', () => {
  expect(readFileSync(join(house.folder, 'service.log'), 'utf8')).not.toContain('of which the contract says nothing');
});
