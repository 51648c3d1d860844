import { House, until, failure } from '@porch/testkit';
import type { InvitationView } from '@porch/wire';
import type { RestClient } from '@porch/client';
import ICAL from 'ical.js';
import { createTransport } from 'nodemailer';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';

const BETTINA = 'bettina.crole@marrowick.example';
let house: House;
let pim: RestClient;
beforeAll(async () => {
  house = await House.open({ hasTickets: true, hasPost: true });
  pim = await house.signedIn();
});
beforeEach(() => house.setPost({ mail: 'well', texts: 'well' }));
afterAll(() => house.close());

const now = async (sessionId: string, id: string) =>
  (await pim.invitations(sessionId)).find((i) => i.id === id) as InvitationView;
/** Looked up in the records: asking the service forty times a second would be refused. */
const row = async (id: string) =>
  (
    await house.query<{ delivery: string; why: string | null }>(
      `SELECT "delivery", "why" FROM "invitation" WHERE "id" = $1`,
      [id],
    )
  )[0];
const reaches = (id: string, delivery: InvitationView['delivery']) =>
  until(delivery, async () => (await row(id))?.delivery === delivery);
const linkIn = (text: string) => /\/join\/([\w-]+)/.exec(text)?.[1] ?? '';
const fileOf = async (sessionId: string, id: string, file: 'qr.png' | 'calendar' | 'join-file') =>
  fetch(house.url + pim.invitationFilePath(sessionId, id, file), { headers: { authorization: `Bearer ${pim.token}` } });

describe('an invitation by mail', () => {
  it('arrives, says so, counts as opened only when a person presses Continue, and brings them in', async () => {
    const { session } = await pim.start({ ticketRef: 'MF-201' });
    const { invitation } = await pim.invite(session.id, { way: 'mail', language: 'no', remark: 'Ta med passet.' });
    expect(invitation).toMatchObject({ delivery: 'queued', address: BETTINA });
    await reaches(invitation.id, 'delivered');
    const [mail] = await house.mailsTo(BETTINA);
    expect(mail?.subject).toBe('Pim Aldersey hos Marrowick Ferries er klar til å hjelpe deg');
    expect(mail?.text).toContain('Ta med passet.');
    const link = linkIn(mail?.text ?? '');
    // A program that follows links in mails: looks at the page, and at whatever the page would load.
    for (const path of [`/join/${link}`, '/api/door']) await fetch(house.url + path);
    expect(await now(session.id, invitation.id)).toMatchObject({ delivery: 'delivered', uses: 0 });
    const { live } = await house.customer({ link });
    expect(await now(session.id, invitation.id)).toMatchObject({ delivery: 'opened', uses: 1 });
    expect(live.entries.some((e) => e.event.type === 'participantJoined' && e.event.way === 'mail-link')).toBe(true);
  });

  it('says why when it comes back, in the ledger too, and when the server refuses it at once', async () => {
    const { session } = await pim.start({ ticketRef: 'MF-202' });
    const unknown = await pim.invite(session.id, { way: 'mail', address: 'nobody@marrowick.example' });
    await reaches(unknown.invitation.id, 'failed');
    expect((await now(session.id, unknown.invitation.id)).why).toContain('nobody here has this address');
    const ledger = await house.technician(pim, session.id);
    await until('the ledger', () => ledger.entries.some((e) => e.event.type === 'invitationFailed'));
    await house.setPost({ mail: 'refuse' });
    const refused = await pim.invite(session.id, { way: 'mail' });
    await reaches(refused.invitation.id, 'failed');
    expect((await now(session.id, refused.invitation.id)).why).toMatch(/refused it: 550/);
  });

  it('waits for a mail server that is down, says so, and is delivered when it is back, also by a service started anew', async () => {
    await house.setPost({ mail: 'down' });
    const { session } = await pim.start({ ticketRef: 'MF-203' });
    const { invitation } = await pim.invite(session.id, { way: 'mail', address: BETTINA });
    await until('the trouble to be told', async () => /does not answer/.test((await row(invitation.id))?.why ?? ''));
    await house.killService();
    await house.startService();
    pim = await house.signedIn();
    await house.setPost({ mail: 'well' });
    await reaches(invitation.id, 'delivered');
  });

  it('is no report because somebody says so: unknown and mistyped return addresses are refused or mean nothing', async () => {
    const { session } = await pim.start({ ticketRef: 'MF-204' });
    const { invitation } = await pim.invite(session.id, { way: 'mail', address: BETTINA });
    await reaches(invitation.id, 'delivered');
    const port = Number(house.settings()['PORCH_BOUNCE_PORT']);
    const door = createTransport({ host: '127.0.0.1', port, ignoreTLS: true });
    const report = (to: string, raw: string) => door.sendMail({ envelope: { from: '', to }, raw });
    await expect(report('pim.aldersey@marrowick.example', 'x')).rejects.toThrow(/only delivery reports are taken here/);
    const forged =
      'Content-Type: multipart/report; boundary="b"\r\n\r\n--b\r\nContent-Type: message/delivery-status\r\n\r\nAction: failed\r\n\r\n--b--\r\n';
    await report(`bounce-${'a'.repeat(43)}@returns.marrowick.example`, forged);
    await report(`bounce-${'b'.repeat(43)}@returns.marrowick.example`, '\0\xff no mail at all');
    door.close();
    expect((await now(session.id, invitation.id)).delivery).toBe('delivered');
  });
});

describe('an invitation by text message', () => {
  it('is delivered, or says why not, by the gateway’s signed report', async () => {
    const { session } = await pim.start({ ticketRef: 'MF-201' });
    const sent = await pim.invite(session.id, { way: 'text-message', address: '555-0161', language: 'de' });
    await reaches(sent.invitation.id, 'delivered');
    const [text] = await house.textsTo('555-0161');
    expect(text?.text).toMatch(/Pim Aldersey von Marrowick Ferries ist bereit/);
    await house.setPost({ texts: 'bounce' });
    const lost = await pim.invite(session.id, { way: 'text-message', address: '555-0161' });
    await reaches(lost.invitation.id, 'failed');
    expect((await now(session.id, lost.invitation.id)).why).toBe('the telephone is switched off');
    const unsigned = await fetch(`${house.url}/api/webhooks/texts`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'porch-signature': '00' },
      body: JSON.stringify({ deliveryId: 'x', sentAtMs: Date.now(), reportRef: 'x', state: 'failed', why: '' }),
    });
    expect(unsigned.status).toBe(401);
    await house.setPost({ texts: 'refuse' });
    const refused = await pim.invite(session.id, { way: 'text-message', address: '555-0161' });
    await reaches(refused.invitation.id, 'failed');
    for (const address of ['bettina', '', 'x@y.example'])
      expect(await failure(pim.invite(session.id, { way: 'text-message', address }))).toBe('ADDRESS_INVALID');
  });
});

describe('invitations of one session, side by side', () => {
  it('a picture, a calendar entry that another program reads, a file with the link alone, and a comment in the ticket', async () => {
    const { session } = await pim.start({ ticketRef: 'MF-206' });
    const make = async (way: 'qr' | 'calendar' | 'join-file') => (await pim.invite(session.id, { way })).invitation.id;
    const qr = Buffer.from(await (await fileOf(session.id, await make('qr'), 'qr.png')).arrayBuffer());
    expect(qr.subarray(0, 8).toString('latin1')).toBe('\x89PNG\r\n\x1a\n');

    const calendarId = await make('calendar');
    const calendar = new ICAL.Component(
      ICAL.parse(await (await fileOf(session.id, calendarId, 'calendar')).text()) as never,
    );
    const event = new ICAL.Event(calendar.getFirstSubcomponent('vevent') ?? undefined);
    const { link } = await pim.invitationLink(session.id, calendarId);
    expect(event.description).toContain(link);
    expect(event.summary).toBe('Marrowick Ferries: Tide almanac will not open after signing in');
    expect(event.endDate.toUnixTime() - event.startDate.toUnixTime()).toBe(30 * 60);

    const file = await (await fileOf(session.id, await make('join-file'), 'join-file')).text();
    expect(file.match(/https?:[^"<\s]+/g)?.filter((url, i, all) => all.indexOf(url) === i)).toHaveLength(1);

    const posted = await pim.invite(session.id, { way: 'ticket-comment' });
    await reaches(posted.invitation.id, 'handed-over');
    expect((await pim.invitations(session.id)).map((i) => i.way).sort()).toEqual(
      ['calendar', 'join-file', 'link', 'qr', 'ticket-comment'].sort(),
    );
    const preview = await pim.previewInvitation(session.id, { way: 'mail', language: 'de', remark: 'Bis gleich.' });
    expect(preview.subject).toBe('Pim Aldersey von Marrowick Ferries ist bereit, Ihnen zu helfen');
    expect(preview.text).toMatch(/Bis gleich\.[^]*\/join\/…/);
  });

  it('each has its own uses, end and withdrawal; who is in already comes back without a use', async () => {
    const { session } = await pim.start({ ticketRef: 'MF-205' });
    const once = await pim.invite(session.id, { way: 'link', uses: 1 });
    const other = await pim.invite(session.id, { way: 'qr', minutes: 5 });
    const customer = await house.customer({ link: linkIn(once.link) });
    await customer.rest.join({ link: linkIn(once.link), as: 'page' });
    expect((await now(session.id, once.invitation.id)).uses).toBe(1);
    expect(await failure(house.customer({ link: linkIn(once.link) }))).toBe('INVITATION_USED_UP');
    await pim.withdrawInvitation(session.id, other.invitation.id);
    expect(await failure(house.customer({ link: linkIn(other.link) }))).toBe('INVITATION_WITHDRAWN');
    const short = await pim.invite(session.id, { way: 'link', minutes: 5 });
    await house.query(`UPDATE "door_pass" SET "expires_at" = now() - interval '1 second' WHERE "invitation_id" = $1`, [
      short.invitation.id,
    ]);
    expect(await failure(house.customer({ link: linkIn(short.link) }))).toBe('INVITATION_EXPIRED');
    const rune = await house.signedIn('Rune Takahashi');
    expect(await failure(rune.invite(session.id, { way: 'link' }))).toBe('NOT_THE_LEAD');
    expect(await failure(rune.invitations(session.id))).toBe('SESSION_NOT_FOUND');
  });

  it('no link lies in the records in the clear', async () => {
    const { session } = await pim.start({ ticketRef: 'MF-201' });
    const { link } = await pim.invite(session.id, { way: 'mail', address: BETTINA });
    const everything: string[] = [];
    for (const { table_name: table } of await house.query<{ table_name: string }>(
      `SELECT table_name FROM information_schema.tables WHERE table_schema = 'public'`,
    ))
      everything.push(JSON.stringify(await house.query(`SELECT * FROM "${table}"`)));
    expect(everything.join('')).toContain(BETTINA);
    expect(everything.join('')).not.toContain(linkIn(link));
  });
});
