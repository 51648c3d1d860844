import { fetchExchange, RestClient } from '@porch/client';
import { House, UNCHECKED_ADDRESS, failure } from '@porch/testkit';
import { afterAll, beforeAll, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open({ hasDirectory: true, env: { PORCH_REQUESTS_SIGNED_IN: 'yes' } });
});
afterAll(() => house.close());

const codeOf = async (answer: Response) => ((await answer.json()) as { code: string }).code;
const cookieIn = (answer: Response, name: string) =>
  answer.headers
    .getSetCookie()
    .find((c) => c.startsWith(`${name}=`) && !c.startsWith(`${name}=;`))
    ?.split(';')[0];
const request = {
  name: 'Somebody Else',
  address: 'else@elsewhere.example',
  topic: 'Printing',
  language: 'en' as const,
  description: 'It does not print',
};

/** As a browser goes: to the directory, choosing who one is, and back. Hands in what comes with each step. */
async function signInAs(address: string): Promise<{ back: string; pending: string }> {
  const begun = await fetch(`${house.url}/api/door/sign-in`, { redirect: 'manual' });
  const pending = cookieIn(begun, 'porch_sign_in') ?? '';
  const asked = new URL(begun.headers.get('location') ?? '');
  const chosen = await fetch(`${asked.origin}/authorize`, {
    method: 'POST',
    redirect: 'manual',
    body: new URLSearchParams([...asked.searchParams, ['who', address]]),
  });
  return { back: chosen.headers.get('location') ?? '', pending };
}
const comeBack = (back: string, cookie: string) => fetch(back, { redirect: 'manual', headers: { cookie } });

it('takes requests only from people whom the directory knows, under the name it has for them', async () => {
  const stranger = new RestClient(fetchExchange(house.url));
  expect([(await stranger.desk()).needsSignIn, await failure(stranger.request(request))]).toEqual([
    true,
    'DIRECTORY_NEEDED',
  ]);
  const { back, pending } = await signInAs('ada.quillfeather@marrowick.example');
  const done = await comeBack(back, pending);
  expect([done.status, done.headers.get('location')]).toEqual([302, '/help']);
  const person = cookieIn(done, 'porch_person') ?? '';
  const known = new RestClient(async (method, path, headers, body) => {
    const answer = await fetch(house.url + path, {
      method,
      headers: { ...headers, cookie: person },
      ...(body ? { body } : {}),
    });
    return { status: answer.status, body: await answer.text() };
  });
  expect((await known.desk()).person?.name).toBe('Ada Quillfeather');
  const { entry, token } = await known.request(request);
  expect([entry.name, entry.isConfirmed]).toEqual(['Ada Quillfeather', true]);

  // In the session she is who the directory says, until she says that she is somebody else.
  const pim = await house.signedIn();
  const { session } = await pim.start({ queueEntryId: entry.id });
  const link = (await known.entry(token ?? '')).joinToken ?? '';
  const { live } = await house.customer({ link });
  expect(live.state.identity).toBe('confirmed-by-directory');
  await live.command({ type: 'introduceCustomer', name: 'Ada Quillfeather', address: '' });
  expect(live.state.identity).toBe('confirmed-by-directory');
  await live.command({ type: 'introduceCustomer', name: 'Jonas Ferreday', address: '' });
  expect([live.state.identity, (await pim.session(session.id)).customerName]).toEqual([
    'said-so-themselves',
    'Jonas Ferreday',
  ]);
});

it('believes no answer twice, none of another sign-in, none that was changed, and no cookie of its own making', async () => {
  const first = await signInAs('greta.moss@marrowick.example');
  const second = await signInAs('greta.moss@marrowick.example');
  expect(await codeOf(await comeBack(first.back, second.pending)), 'another browser’s answer').toBe(
    'DIRECTORY_REFUSED',
  );
  expect(await codeOf(await comeBack(second.back, '')), 'nothing begun').toBe('DIRECTORY_REFUSED');
  const third = await signInAs('greta.moss@marrowick.example');
  expect((await comeBack(third.back, third.pending)).status).toBe(302);
  expect(await codeOf(await comeBack(third.back, third.pending)), 'a second time').toBe('DIRECTORY_REFUSED');
  const forged = Buffer.from(JSON.stringify({ name: 'X', address: 'x', endsAtMs: 9e15 })).toString('base64url');
  const answer = await fetch(`${house.url}/api/door`, { headers: { cookie: `porch_person=${forged}` } });
  expect(((await answer.json()) as { person?: unknown }).person).toBeUndefined();
});

it('takes nobody for the one whose address they have when nobody checked it', async () => {
  const { back, pending } = await signInAs(UNCHECKED_ADDRESS);
  const answer = await comeBack(back, pending);
  expect([answer.status, cookieIn(answer, 'porch_person')]).toEqual([401, undefined]);
});

it('says that the directory does not answer, and goes on when it does', async () => {
  await house.killService();
  await house.stopDirectory();
  await house.startService();
  const answer = await fetch(`${house.url}/api/door/sign-in`, { redirect: 'manual' });
  expect([answer.status, await codeOf(answer)]).toEqual([503, 'DIRECTORY_DOWN']);
  await house.startDirectory();
  expect((await fetch(`${house.url}/api/door/sign-in`, { redirect: 'manual' })).status).toBe(302);
});
