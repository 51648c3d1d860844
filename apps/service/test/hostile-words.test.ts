import { House } from '@porch/testkit';
import { addressOf, isoForm, operations, type AnyOperation } from '@porch/wire';
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { z } from 'zod';

/* Whatever script, direction or character stands in whatever field of the API. */
let house: House;
let token: string;
beforeAll(async () => {
  house = await House.open({ hasPost: true });
  token = (await house.signedIn('Odalys Brandt')).token ?? '';
});
afterAll(() => house.close());

const anyScript = 'مرحبا بالعالم 👩‍👩‍👧‍👦 港 é \u202eevil\u202c ﷽';
const texts = {
  'of any script': anyScript,
  'with a NUL': `a\u0000b`,
  'that is half a character': '\ud83d',
  'that is empty': '',
};

type Json = Readonly<Record<string, unknown>>;
/** Something that fits a schema's form, with one text wherever a text may stand. */
function filled(schema: Json, text: string): unknown {
  const either = (schema['anyOf'] ?? schema['oneOf']) as Json[] | undefined;
  if (either?.[0]) return filled(either[0], text);
  if (Array.isArray(schema['enum'])) return schema['enum'][0];
  if ('const' in schema) return schema['const'];
  if (schema['format'] === 'uuid') return randomUUID();
  switch (schema['type']) {
    case 'object':
      return Object.fromEntries(
        Object.entries((schema['properties'] ?? {}) as Record<string, Json>).map(([name, part]) => [
          name,
          filled(part, text),
        ]),
      );
    case 'array':
      return [filled((schema['items'] ?? {}) as Json, text)];
    case 'integer':
    case 'number':
      return Math.max(1, Number(schema['minimum'] ?? 1));
    case 'boolean':
      return false;
    default:
      return text;
  }
}
const jsonOf = (schema: z.ZodType): Json =>
  z.toJSONSchema(isoForm(schema).schema, { io: 'input', unrepresentable: 'any' }) as Json;

async function ask({ params, query, body, method, path }: AnyOperation & { path: string }, text: string) {
  const address = addressOf({ path }, filled(jsonOf(params), text) as Json, filled(jsonOf(query), text) as Json);
  return fetch(`${house.url}/api/v1${address}`, {
    method,
    headers: { authorization: `Bearer ${token}`, ...(body ? { 'content-type': 'application/json' } : {}) },
    ...(body ? { body: JSON.stringify(filled(jsonOf(body), text)) } : {}),
  });
}
/** But for those that end the sign-in that all the rest is asked with, and the one whose answer never ends. */
const kept = operations.filter(({ id }) => !['signOut', 'endSignIns', 'followPorch'].includes(id));

it.each(Object.entries(texts))(
  'a text %s ends nothing, and is refused with words where it is refused',
  async (_what, text) => {
    for (const operation of kept) {
      const answer = await ask(operation, text);
      const said = await answer.text();
      expect(answer.status, `${operation.id}: ${said}`).toBeLessThan(500);
      if (answer.status < 400) continue;
      expect(answer.headers.get('content-type'), operation.id).toContain('application/problem+json');
      expect(said, operation.id).not.toContain('evil');
      if (text.includes('\u0000') && operation.body) expect(answer.status, operation.id).not.toBe(500);
    }
    expect((await fetch(`${house.url}/readyz`)).status).toBe(200);
  },
);

it('keeps words of any script as they are', async () => {
  const rest = await house.signedIn('Odalys Brandt');
  const fault = await rest.publishKnownFault({ topic: 'Printing', text: anyScript });
  expect(fault.text).toBe(anyScript);
  const date = new Date(Date.now() + 86_400_000).toISOString().slice(0, 10);
  const words = { customerName: anyScript, purpose: anyScript, address: 'bettina.crole@marrowick.example' };
  const made = await rest.book({ date, time: '09:00', ...words });
  expect([made.customerName, made.purpose]).toEqual([anyScript, anyScript]);
  expect((await rest.bookings()).map(({ purpose }) => purpose)).toContain(anyScript);
  const { entry } = await rest.request({
    name: anyScript,
    address: '',
    topic: 'Printing',
    language: 'en',
    description: anyScript,
  });
  expect([entry.name, entry.description]).toEqual([anyScript, anyScript]);
});
