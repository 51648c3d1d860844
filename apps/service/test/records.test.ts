import { makeRecords } from '../src/modules/records.ts';
import { terminalWaits } from '../src/db/data-source.ts';
import { House, until } from '@porch/testkit';
import { createHmac } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { LedgerForger } from './ledger-forger.ts';

let house: House;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
});
afterAll(() => house.close());

async function loggedSession(note = 'Set barcode-height to 24.') {
  const s = await house.sessionUnderWay('Pim Aldersey', 'MF-201');
  await s.customer.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'The lower half is missing.' });
  await s.technician.command({ type: 'endSession', reason: 'technician', why: 'done' });
  await s.technician.command({ type: 'logOutcome', outcome: 'resolved', note, minutes: 7 });
  return s;
}
const ticketPage = async (ref: string) => (await fetch(`${house.ticketsUrl}/t/${ref}`)).text();

describe('the ticket system', () => {
  it('gives its tickets, and receives outcome, note, duration, chat and what was done', async () => {
    const pim = await house.signedIn();
    expect((await pim.porch()).tickets.map((t) => t.ref)).toContain('MF-201');
    await loggedSession();
    const page = await until('the outcome', async () => {
      const text = await ticketPage('MF-201');
      return text.includes('Outcome: resolved') && text;
    });
    for (const part of [
      '7 min',
      'Set barcode-height to 24.',
      'The lower half is missing.',
      'Bettina Crole accepted the session',
    ])
      expect(page).toContain(part);
  });

  it('may be down at the start and at the end: nothing is lost, and it is said', async () => {
    const pim = await house.signedIn();
    await pim.porch();
    await house.stopTickets();
    const known = await pim.start({ ticketRef: 'MF-203' });
    expect([known.session.purpose, known.session.behind]).toEqual([
      'Car-deck manifest export has the wrong separators',
      'ticket',
    ]);
    const unknown = await pim.start({ ticketRef: 'MF-206' });
    expect([unknown.session.ticketRef, unknown.session.behind], 'what was never seen stands behind nobody').toEqual([
      'MF-206',
      'nothing',
    ]);
    await loggedSession('Kept while it was down.');
    await until('the console says so', async () => (await pim.porch()).undelivered > 0);
    await house.startTickets();
    await until('the note arrives later', async () => (await ticketPage('MF-201')).includes('Kept while it was down.'));
    await until('and nothing waits any longer', async () => (await pim.porch()).undelivered === 0);
  });

  it('is believed only when its webhook is signed, fresh and new', async () => {
    const send = (body: object, key = house.ticketsKey) => {
      const text = JSON.stringify(body);
      return fetch(`${house.url}/api/webhooks/tickets`, {
        method: 'POST',
        body: text,
        headers: {
          'content-type': 'application/json',
          'porch-signature': createHmac('sha256', key).update(text).digest('hex'),
        },
      }).then((a) => a.status);
    };
    const body = { deliveryId: 'd1', sentAtMs: Date.now(), event: 'ticketChanged', ref: 'MF-201' };
    expect([
      await send(body, 'another key'),
      await send({ ...body, sentAtMs: 1 }),
      await send(body),
      await send(body),
    ]).toEqual([401, 401, 200, 401]);
  });

  it('gets a ticket for a session that had none, once, even when it was down, with the outcome in it', async () => {
    await house.stopTickets();
    const s = await house.sessionUnderWay();
    await s.technician.command({ type: 'endSession', reason: 'technician', why: 'done' });
    await s.technician.command({ type: 'logOutcome', outcome: 'resolved', note: 'The cable was loose.', minutes: 3 });
    await until(
      'a try in vain',
      async () => (await house.query(`SELECT 1 FROM "outbox" WHERE "attempts" > 0 AND "kind" = 'newTicket'`)).length,
    );
    expect((await s.rest.porch()).undelivered).toBe(1);
    await house.startTickets();
    const ref = await until('its ticket', async () => (await s.rest.session(s.id)).ticketRef);
    await until('the outcome there', async () => (await ticketPage(ref)).includes('Outcome: resolved'));
    expect(await ticketPage(ref)).toContain('The cable was loose.');
    expect((await s.rest.tickets('Help with a computer')).map((t) => t.ref)).toEqual([ref]);
    expect(s.technician.entries.some((e) => e.event.type === 'ticketAttached' && e.event.ticketRef === ref)).toBe(true);
  });

  it('is reached by mail alone where nothing else reaches it: the number in the subject, nobody taken for the requester', async () => {
    const byMail = await House.open({
      hasPost: true,
      env: { PORCH_TICKETS_MAIL: 'greta.moss@marrowick.example' },
    });
    const s = await byMail.sessionUnderWay('Pim Aldersey', 'MF-202');
    expect([s.technician.state.ticketRef, s.technician.state.behind]).toEqual(['MF-202', 'nothing']);
    await s.technician.command({ type: 'endSession', reason: 'technician', why: 'done' });
    await s.technician.command({ type: 'logOutcome', outcome: 'resolved', note: 'Rights put right.', minutes: 5 });
    const mail = await until('the mail', async () => (await byMail.mailsTo('greta.moss@marrowick.example'))[0]);
    expect(mail.subject).toBe('[MF-202] Support session: resolved');
    expect(mail.text).toMatch(/Outcome: resolved, 5 min[^]*Rights put right\.[^]*ledger head \d+:[0-9a-f]{64}/);
    await byMail.close();
  });

  it('tells a changed ticket to the porch by itself', async () => {
    const pim = await house.signedIn();
    await pim.porch();
    await fetch(`${house.ticketsUrl}/tickets/MF-221`, {
      method: 'PATCH',
      headers: { authorization: `Bearer ${house.ticketsKey}`, 'content-type': 'application/json' },
      body: JSON.stringify({ state: 'closed' }),
    });
    await until('MF-221 to go', async () => !(await pim.porch()).tickets.some((t) => t.ref === 'MF-221'));
  });
});

describe('the ledger', () => {
  const verify = async (args: string[]) => house.porch('pim', ['verify', ...args, '--json']);
  async function signIn(): Promise<void> {
    await house.porch(
      'pim',
      ['sign-in', '--service', house.url, '--email', 'pim.aldersey@marrowick.example', '--password-stdin'],
      'harbour-lamp-41',
    );
  }

  it('shows an edited row, a chain recomputed behind it and a cut tail, and where', async () => {
    await signIn();
    const { id, technician } = await loggedSession();
    const head = `${technician.head.seq}:${technician.head.hash}`;
    expect((await verify([id, '--head', head])).code).toBe(0);
    const journal = new LedgerForger(house, id);
    const chatSeq = technician.entries.find((e) => e.event.type === 'chatSent')?.seq ?? 0;

    const original = await journal.read();
    await journal.edit(chatSeq, (body) => body.replace('missing', 'fine'));
    expect(JSON.parse((await verify([id])).out)).toMatchObject({
      ledger: { isWhole: false, atSeq: chatSeq, fault: 'body changed' },
    });

    await journal.recomputeFrom(chatSeq);
    const forged = await verify([id, '--head', head]);
    expect([forged.code, JSON.parse(forged.out).ledger]).toEqual([
      6,
      { isWhole: false, atSeq: technician.head.seq, fault: 'other history' },
    ]);

    await journal.restore(original);
    await house.query('DELETE FROM "ledger_row" WHERE "session_id" = $1 AND "seq" > $2', [id, technician.head.seq - 2]);
    expect(JSON.parse((await verify([id, '--head', head])).out)).toMatchObject({
      ledger: { isWhole: false, atSeq: technician.head.seq - 1, fault: 'cut short' },
    });
  });

  it('keeps verifying after a person was erased, and their words are gone from everywhere', async () => {
    await signIn();
    const { id, technician } = await loggedSession('Told by Bettina.');
    // A device that was kept in this session knows whose it is.
    await house.query(
      `INSERT INTO "device" ("id", "name", "sign_key", "customer_name", "customer_address", "language", "allowed", "asks_each_visit", "made_in_session", "made_at", "until_at")
       VALUES ($1, 'tern-quay-04', '', 'Bettina Crole', 'bettina.crole@marrowick.example', 'en', '{view-screen}', true, $1, now(), now() + interval '1 day')`,
      [id],
    );
    const odalys = await house.signedIn('Odalys Brandt');
    await expect((await house.signedIn()).erase(id, 'r')).rejects.toMatchObject({ code: 'NOT_YOUR_ROLE' });
    const { erased } = await odalys.erase(id, 'after 90 days');
    expect(erased).toBeGreaterThan(4);
    const verdict = await verify([id, '--head', `${technician.head.seq}:${technician.head.hash}`]);
    expect(JSON.parse(verdict.out).ledger).toMatchObject({ isWhole: true, erased });
    const everything = JSON.stringify([
      await house.query(
        `SELECT convert_from("body", 'UTF8') b, convert_from("header", 'UTF8') h FROM "ledger_row" WHERE "session_id" = $1`,
        [id],
      ),
      await house.query('SELECT * FROM "session" WHERE "id" = $1', [id]),
      await house.query('SELECT * FROM "device"'),
      await odalys.ledger(id),
    ]);
    expect(everything).not.toMatch(/Bettina|lower half/);
    expect(everything).toContain('after 90 days');
  });

  it('is verified from a file, too, and a file that is none is refused', async () => {
    await signIn();
    const { id } = await loggedSession();
    const saved = join(house.folder, 'ledger.json');
    writeFileSync(saved, (await house.porch('pim', ['ledger', id, '--json'])).out);
    expect((await verify(['--file', saved])).code).toBe(0);
    writeFileSync(saved, '{"rows": 5}');
    const refused = await house.porch('pim', ['verify', '--file', saved]);
    expect([refused.code, refused.err]).toEqual([2, expect.stringContaining('is no ledger')]);
  });
});

it('has migrations that make exactly what the entities say', async () => {
  const records = makeRecords(house.databaseUrl, () => undefined, terminalWaits);
  await records.initialize();
  const drift = await records.driver.createSchemaBuilder().log();
  await records.destroy();
  expect(drift.upQueries.map((q) => q.query)).toEqual([]);
});
