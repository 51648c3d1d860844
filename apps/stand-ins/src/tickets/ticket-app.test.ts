import type { FastifyInstance } from 'fastify';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { buildTicketApp } from './ticket-app.ts';

let folder: string;
let app: FastifyInstance;
const open = () => buildTicketApp({ key: 'k', dataFile: join(folder, 'tickets.json'), webhookUrl: undefined });
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'tickets-'));
  app = open();
});
afterEach(async () => {
  await app.close();
  rmSync(folder, { recursive: true });
});
const call = (method: 'GET' | 'POST' | 'PATCH', url: string, payload?: object, key = 'k') =>
  app.inject({ method, url, headers: { authorization: `Bearer ${key}` }, ...(payload ? { payload } : {}) });
const outcome = {
  outcome: 'resolved',
  note: 'n',
  minutes: 3,
  chat: '<b>c</b>',
  actions: 'a',
  sessionId: '12345678-0',
  ledgerHead: '3:ff',
  deliveryId: 'd',
};

it('wants its key, and finds by words and by technician', async () => {
  expect((await call('GET', '/tickets', undefined, 'wrong')).statusCode).toBe(401);
  expect((await call('GET', '/tickets')).json()).toHaveLength(31);
  expect((await call('GET', '/tickets?words=bettina%20barcode')).json()).toMatchObject([{ ref: 'MF-201' }]);
  for (const t of (await call('GET', '/tickets?technician=pim.aldersey@marrowick.example')).json() as {
    state: string;
  }[])
    expect(t.state).not.toBe('closed');
  expect((await call('GET', '/tickets/MF-999')).statusCode).toBe(404);
});
it('takes a delivery once, and keeps it over a restart', async () => {
  for (let i = 0; i < 2; i++) {
    await call('POST', '/tickets/mf-201/comments', { text: 'hello', deliveryId: 'c1' });
    await call('POST', '/tickets/MF-201/outcomes', outcome);
  }
  await app.close();
  app = open();
  await call('POST', '/tickets/MF-201/outcomes', outcome);
  expect((await call('GET', '/tickets/MF-201')).json()).toMatchObject({
    state: 'closed',
    comments: [{ text: 'hello' }],
    outcomes: [{ minutes: 3 }],
  });
});
it('shows what it has, escaped, and says that it is simulated', async () => {
  await call('POST', '/tickets/MF-201/outcomes', outcome);
  const page = (await app.inject('/t/MF-201')).body;
  expect(page).toContain('simulated');
  expect(page).toContain('&#60;b&#62;c');
  expect((await app.inject('/')).body).toContain('MF-230');
  expect((await app.inject('/t/nothing')).statusCode).toBe(404);
});
