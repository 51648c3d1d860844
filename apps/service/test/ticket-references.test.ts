import type { AddressInfo } from 'node:net';
import { createServer, type Server } from 'node:http';
import { House, failure } from '@porch/testkit';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* A ticket system with references of its own kind: they are whatever it says, in the ledger, to people and back to it. */
const REF = 'Störung_7.b';
let system: Server;
let house: House;
const asked: string[] = [];
let isDown = false;
let other: object = {};

beforeAll(async () => {
  system = createServer((request, response) => {
    const url = decodeURIComponent(request.url ?? '');
    asked.push(`${request.method} ${url}`);
    if (isDown) {
      response.writeHead(500).end();
      return;
    }
    const ticket = {
      ref: REF,
      title: 'The barrier of lane two stays down',
      state: 'open',
      requester: { name: 'Samir Oduya', address: 'samir.oduya@marrowick.example' },
      description: '',
      ...other,
    };
    const isThere = url.toLowerCase() === `/tickets/${REF.toLowerCase()}`;
    response.writeHead(isThere || url.includes('?') ? 200 : 404, { 'content-type': 'application/json' });
    response.end(JSON.stringify(url.includes('?') ? [ticket] : ticket));
  });
  await new Promise<void>((resolve) => system.listen(0, '127.0.0.1', resolve));
  const { port } = system.address() as AddressInfo;
  house = await House.open({ hasTickets: true, env: { PORCH_TICKETS_URL: `http://127.0.0.1:${port}` } });
});
afterAll(async () => {
  await house.close();
  system.close();
});
const start = async (ticketRef: string) => {
  const pim = await house.signedIn('Pim Aldersey');
  return pim.start({ ticketRef, sessionId: crypto.randomUUID() });
};

it('are kept as the ticket system writes them, however somebody types them', async () => {
  const { session } = await start(REF.toUpperCase());
  expect([session.ticketRef, session.purpose]).toEqual([REF, 'The barrier of lane two stays down']);
  expect(asked).toContain(`GET /tickets/${REF.toUpperCase()}`);
});

it('are known while the ticket system is down, if they were seen before', async () => {
  isDown = true;
  const { session } = await start(REF.toLowerCase());
  expect([session.ticketRef, session.customerName]).toEqual([REF, 'Samir Oduya']);
  const unknown = await start('Never-seen-1');
  expect(unknown.session.ticketRef, 'taken at its word').toBe('Never-seen-1');
  isDown = false;
});

it('that could lead a request or a reader astray are none', async () => {
  for (const ref of ['../secrets', 'a b', '-x', '<b>', 'x'.repeat(41), 'MF/201'])
    expect(['TICKET_NOT_FOUND', 'INVALID_REQUEST'], ref).toContain(await failure(start(ref)));
  expect(asked.filter((line) => line.includes('..'))).toEqual([]);
});

it('of another ticket than was asked for are refused, and so is one that is no reference', async () => {
  other = { ref: 'Störung_8' };
  expect(await failure(start(REF))).toBe('TICKET_NOT_FOUND');
  other = { ref: 'javascript:alert(1) ' };
  // What answers like this is no ticket system that works: the one seen before is taken.
  expect((await start(REF)).session.ticketRef).toBe(REF);
  other = {};
});
