import { AppError } from '@porch/wire';
import { failure } from '@porch/testkit/failure';
import { describe, expect, it } from 'vitest';
import { RestClient, Unreachable, type HttpAnswer } from '../src/index.ts';

/* What a program makes of an answer: of a service that refuses, of one that is not ours, and of nobody at all. */
interface Asked {
  readonly method: string;
  readonly path: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string | undefined;
}
function client(answer: HttpAnswer | Error | ((asked: Asked) => HttpAnswer), token?: string) {
  const asked: Asked[] = [];
  const rest = new RestClient((method, path, headers, body) => {
    const one = { method, path, headers, body };
    asked.push(one);
    if (answer instanceof Error) return Promise.reject(answer);
    return Promise.resolve(typeof answer === 'function' ? answer(one) : answer);
  }, token);
  return { rest, asked };
}
const answering = (status: number, body: unknown): HttpAnswer => ({ status, body: JSON.stringify(body) });
const me = {
  id: 'pim',
  name: 'Pim Aldersey',
  email: 'pim.aldersey@marrowick.example',
  team: 'Pier Systems',
  role: 'technician',
  isPresent: true,
};

describe('what is asked', () => {
  it('carries who asks, and with everything that changes something the header that no form can send', async () => {
    const { rest, asked } = client(answering(200, me), 'a token');
    await rest.me();
    expect(asked[0]).toMatchObject({ method: 'GET', path: '/api/v1/me', headers: { authorization: 'Bearer a token' } });
    expect(asked[0]?.headers['x-porch']).toBeUndefined();
    await failure(rest.signOut());
    expect(asked[1]).toMatchObject({ method: 'DELETE', path: '/api/v1/sign-ins/mine', headers: { 'x-porch': '1' } });
    expect(asked[1]?.headers['content-type'], 'nothing is said').toBeUndefined();
  });

  it('carries no token when there is none, and words in an address are escaped', async () => {
    const { rest, asked } = client(answering(200, { items: [] }));
    await rest.tickets('half a barcode & more?');
    expect(asked[0]?.path).toBe('/api/v1/tickets?words=half+a+barcode+%26+more%3F');
    expect(asked[0]?.headers['authorization']).toBeUndefined();
  });

  it('is a session under an id of the asker’s own, so that asking again makes no second one', async () => {
    const { rest, asked } = client(answering(404, { code: 'TICKET_NOT_FOUND', message: '' }));
    for (let i = 0; i < 2; i++) await failure(rest.start({ ticketRef: 'MF-201' }));
    const ids = asked.map(({ body }) => (JSON.parse(body ?? '{}') as { sessionId: string }).sessionId);
    expect(new Set(ids).size).toBe(2);
    expect(ids[0]).toMatch(/^[\da-f-]{36}$/);
  });
});

describe('what is made of the answer', () => {
  it('a refusal of the catalogue, with its details', async () => {
    const { rest } = client(answering(404, { code: 'TICKET_NOT_FOUND', message: 'gone', details: { ref: 'MF-999' } }));
    const refusal = await rest.me().catch((error: unknown) => error);
    expect(refusal).toBeInstanceOf(AppError);
    expect(refusal).toMatchObject({ code: 'TICKET_NOT_FOUND', details: { ref: 'MF-999' } });
  });

  it.each([
    ['nobody answers', new Error('connect ECONNREFUSED')],
    ['a page answers', { status: 200, body: '<!doctype html><title>Wi-Fi: please sign in</title>' }],
    ['a proxy refuses', { status: 502, body: '' }],
    ['a refusal has a code that nobody knows', answering(400, { code: 'GO_AWAY', message: 'no' })],
    ['a refusal has no code', answering(500, { error: 'Internal Server Error' })],
  ])('when %s, it is not the service, and may be tried again', async (_what, answer) => {
    const error = await client(answer)
      .rest.me()
      .catch((e: unknown) => e);
    expect(error).toBeInstanceOf(Unreachable);
  });

  it('something of another shape than was agreed is refused, and not passed on', async () => {
    const { rest } = client(answering(200, { ...me, role: 'owner of everything' }));
    await expect(rest.me()).rejects.toThrow(/role/);
  });
});

describe('signing in', () => {
  const signedIn = { technician: me, expiresAt: '2026-12-01T00:00:00.000Z', token: 'a token' };

  it('does the work that is asked of it, once, and says so with the same words', async () => {
    const needed = { code: 'WORK_NEEDED', message: '', details: { challenge: 'abc', bits: 4 } };
    const { rest, asked } = client(({ body }) =>
      answering(body?.includes('"work"') ? 200 : 428, body?.includes('"work"') ? signedIn : needed),
    );
    expect((await rest.signIn(me.email, 'a password', 'token')).token).toBe('a token');
    const bodies = asked.map(({ body }) => JSON.parse(body ?? '{}') as { email: string; work?: object });
    expect(bodies.map(({ email }) => email)).toEqual([me.email, me.email]);
    expect(bodies.map(({ work }) => work !== undefined)).toEqual([false, true]);
  });

  it('does no work for a service that asks without end, nor more than anybody may ask for', async () => {
    const again = client(answering(428, { code: 'WORK_NEEDED', message: '', details: { challenge: 'abc', bits: 4 } }));
    expect(await failure(again.rest.signIn(me.email, 'a password', 'token'))).toBe('WORK_NEEDED');
    expect(again.asked).toHaveLength(2);
    const greedy = client(
      answering(428, { code: 'WORK_NEEDED', message: '', details: { challenge: 'abc', bits: 60 } }),
    );
    expect(await failure(greedy.rest.signIn(me.email, 'a password', 'token'))).not.toBe('no failure');
    expect(greedy.asked, 'and is not asked again').toHaveLength(1);
  });

  it('with a wrong password is refused at once', async () => {
    const { rest, asked } = client(answering(401, { code: 'SIGN_IN_FAILED', message: '' }));
    expect(await failure(rest.signIn(me.email, 'wrong', 'token'))).toBe('SIGN_IN_FAILED');
    expect(asked).toHaveLength(1);
  });
});
