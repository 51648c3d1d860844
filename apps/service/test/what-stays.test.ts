import { House, until, failure } from '@porch/testkit';
import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* What of people stays where, after a session full of marked words. */
let house: House;
let log: string;
beforeAll(async () => {
  house = await House.open({ hasTickets: true, hasPost: true, env: { PORCH_LOG_LEVEL: 'debug' }, keepsLog: true });
  log = join(house.folder, 'service.log');
});
afterAll(() => house.close());

const marks = {
  name: 'Marknamed Customer',
  address: 'marked.address@marrowick.example',
  chat: 'marked-chat-5b1d',
  note: 'marked-note-77aa',
  remark: 'marked-remark-0c9e',
  aside: 'marked-aside-e4f2',
  file: 'marked-file-name.csv',
  queue: 'marked-description-1f00',
  callBack: '555-0161',
};

async function everything(): Promise<string> {
  const tables = await house.query<{ name: string }>(
    `SELECT table_name AS name FROM information_schema.tables WHERE table_schema = 'public' AND table_type = 'BASE TABLE'`,
  );
  const rows = [];
  for (const { name } of tables) {
    if (name === 'technician') continue;
    for (const row of await house.query(`SELECT * FROM "${name}"`))
      rows.push(
        Object.values(row)
          .map((v) => (Buffer.isBuffer(v) ? v.toString('utf8') : typeof v === 'object' ? JSON.stringify(v) : String(v)))
          .join(' '),
      );
  }
  return rows.join('\n');
}

it('an erased session is erased in every table and in memory, also a second time, and the log never knew any of it', async () => {
  const pim = await house.signedIn();
  const customer = await house.customer({ link: (await pim.start({})).link.split('/').at(-1) ?? '' });
  customer.live.close();
  const { entry, token } = await customer.rest.request({
    name: marks.name,
    address: marks.address,
    topic: 'Printing',
    language: 'en',
    description: marks.queue,
    callBack: marks.callBack,
  });
  const started = await pim.start({ queueEntryId: entry.id });
  const id = started.session.id;
  const status = await customer.rest.entry(token ?? '');
  const page = await house.customer({ link: status.joinToken ?? '' });
  await page.live.command({ type: 'introduceCustomer', name: marks.name, address: marks.address });
  await page.live.command({ type: 'acceptSession', noticeVersion: '2026-11' });
  const technician = await house.technician(pim, id);
  const say = (live: typeof technician, text: string) =>
    live.command({ type: 'sendChat', messageId: randomUUID(), text });
  await say(page.live, marks.chat);
  await technician.aside(marks.aside);
  await pim.invite(id, { way: 'mail', address: marks.address, remark: marks.remark });
  // Faults on the way: refused commands, bad bodies, U+0000, a broken line.
  expect(await failure(say(page.live, `a\u0000${marks.chat}`))).toBe('MESSAGE_INVALID');
  expect(await failure(pim.sayToEntry(entry.id, `x\u0000${marks.queue}`))).toBe('INVALID_REQUEST');
  expect(await failure(pim.sessions(`\u0000${marks.name}`))).toBe('INVALID_REQUEST');
  house.cut(technician);
  await until('it to be back', () => technician.status === 'live');
  await technician.command({
    type: 'requestHandover',
    handoverId: randomUUID(),
    toTechnicianId: 'rune',
    remark: marks.remark,
  });
  await technician.command({ type: 'endSession', reason: 'technician', why: 'done' });
  await technician.command({ type: 'logOutcome', outcome: 'resolved', minutes: 2, note: marks.note });
  const before = await everything();
  for (const [what, mark] of Object.entries(marks))
    if (what !== 'file') expect(before, `${what} is there before`).toContain(mark);

  const odalys = await house.signedIn('Odalys Brandt');
  expect(await failure(pim.erase(id, 'asked'))).toBe('NOT_YOUR_ROLE');
  expect(await odalys.erase(id, 'the customer asked for it')).toMatchObject({ erased: expect.any(Number) });
  expect(await odalys.erase(id, 'again')).toEqual({ erased: 0 });
  const after = await everything();
  for (const [what, mark] of Object.entries(marks)) expect(after, what).not.toContain(mark);
  for (const [what, mark] of Object.entries(marks)) {
    expect(JSON.stringify(await odalys.ledger(id)), what).not.toContain(mark);
    expect(JSON.stringify(await odalys.session(id)), what).not.toContain(mark);
    expect(JSON.stringify(await odalys.sessions('')), what).not.toContain(mark);
    expect(JSON.stringify(await odalys.porch()), what).not.toContain(mark);
  }
  expect(await failure(page.rest.receipt())).toBe('INVITATION_UNKNOWN');
  // A fault of the records itself, whose error carries every parameter.
  await house.query('ALTER TABLE "known_fault" RENAME TO "away"');
  expect(await failure(pim.publishKnownFault({ topic: 'Printing', text: marks.chat }))).toBe('INTERNAL');
  await house.query('ALTER TABLE "away" RENAME TO "known_fault"');
  await house.killService('SIGTERM');
  const logged = readFileSync(log, 'utf8');
  expect(logged).toContain('a request failed');
  expect(logged).toContain('stopping');
  for (const [what, mark] of Object.entries(marks)) expect(logged, what).not.toContain(mark);
  for (const secret of [started.code.digits, started.link.split('/').at(-1) ?? 'x', token ?? 'x', pim.token ?? 'x'])
    expect(logged).not.toContain(secret);
});
