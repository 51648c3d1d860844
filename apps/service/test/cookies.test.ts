import { emailOf, PASSWORD } from '@porch/demo';
import { House } from '@porch/testkit';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* A service that people reach over TLS: its cookies are of this very host, and no neighbour's are taken for them. */
let house: House;
beforeAll(async () => {
  house = await House.open({ env: { PORCH_PUBLIC_URL: 'https://help.marrowick.example' } });
});
afterAll(() => house.close());

const post = (path: string, body: object, cookie = '') =>
  fetch(house.url + path, {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'x-porch': '1', ...(cookie ? { cookie } : {}) },
    body: JSON.stringify(body),
  });
const valueOf = (cookie: string) => /=([^;]*)/.exec(cookie)?.[1] ?? '';
const signIn = async () => {
  const email = emailOf('Pim Aldersey');
  const answer = await post('/api/sign-in', { email, password: PASSWORD, keep: 'cookie' });
  return answer.headers.getSetCookie()[0] ?? '';
};
const me = async (cookie: string) => (await fetch(`${house.url}/api/me`, { headers: { cookie } })).status;

it('name themselves so that browsers hold them to this host', async () => {
  expect(await signIn()).toMatch(/^__Host-porch_console=[\w.-]+; .*Path=\/; HttpOnly; Secure; SameSite=Strict$/);
});

it('count by that name alone: the same under a name that a neighbour could set is nobody’s', async () => {
  const value = valueOf(await signIn());
  expect(await me(`__Host-porch_console=${value}`)).toBe(200);
  expect(await me(`porch_console=${value}`)).toBe(401);
  expect(await me(`porch_console=${value}; __Host-porch_console=wrong`)).toBe(401);
});

it('of a customer’s page, too, and go when somebody signs out', async () => {
  const cookie = await signIn();
  const mine = `__Host-porch_console=${valueOf(cookie)}`;
  const { link } = (await (await post('/api/sessions', { sessionId: crypto.randomUUID() }, mine)).json()) as {
    link: string;
  };
  const joined = await post('/api/door/join', { link: link.split('/').at(-1), as: 'page' });
  expect(joined.headers.getSetCookie()[0]).toMatch(/^__Host-porch_door=/);
  const out = await post('/api/sign-out', {}, mine);
  expect(out.headers.getSetCookie()[0]).toMatch(/^__Host-porch_console=; .*Path=\/;/);
  expect(await me(mine)).toBe(401);
});

it('without the header that only our own pages add, change nothing', async () => {
  const cookie = `__Host-porch_console=${valueOf(await signIn())}`;
  const answer = await fetch(`${house.url}/api/sessions`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', cookie },
    body: '{}',
  });
  expect(answer.status).toBe(401);
});
