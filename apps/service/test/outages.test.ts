import { fetchExchange, type LiveConnection, RestClient } from '@porch/client';
import { House, RawProgram, until, type RecordsLine, failure } from '@porch/testkit';
import { makeKeys } from '@porch/wire';
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

let house: House;
let line: RecordsLine;
beforeAll(async () => {
  house = await House.open({
    hasRecordsLine: true,
    // More than the longest wait before connecting again, or who comes back after a kill finds their place given up.
    env: { PORCH_GRACE_SECONDS: '5', PORCH_ABANDONED_MINUTES: '0.05' },
  });
  if (!house.recordsLine) throw new Error('no line');
  line = house.recordsLine;
});
afterAll(() => house.close());

const chats = (live: LiveConnection) =>
  live.entries.flatMap((e) => (e.event.type === 'chatSent' ? [e.event.personal?.text] : []));
const say = (live: LiveConnection, text: string) => live.command({ type: 'sendChat', messageId: randomUUID(), text });

describe('a commit whose answer is lost', () => {
  it('stands once, whatever was written, and everybody is told of it', async () => {
    const { technician, customer } = await house.sessionUnderWay();
    line.loseCommitAnswers();
    await say(technician, 'written once');
    await until('both to have it', () => [technician, customer].every((l) => chats(l).includes('written once')));
    line.loseCommitAnswers();
    await technician.aside('said once');
    await until('the aside', () => technician.asides.length > 0);
    await say(customer, 'after it');
    await until('the end', () => chats(technician).includes('after it'));
    expect(chats(technician)).toEqual(['written once', 'after it']);
    expect(technician.asides.map((a) => a.text)).toEqual(['said once']);
    expect(line.answersToLose).toBe(0);
  });

  it('of a session that begins is one session, also when it is asked for again', async () => {
    const pim = await house.signedIn('Rune Takahashi');
    const sessionId = randomUUID();
    line.loseCommitAnswers();
    const first = await pim.start({ sessionId }).catch(() => undefined);
    const again = await pim.start({ sessionId });
    expect([first?.session.id ?? sessionId, again.session.id, again.isNew]).toEqual([sessionId, sessionId, false]);
    expect((await pim.sessions('')).filter((s) => s.technicianId === 'rune')).toHaveLength(1);
    const wanjiru = await house.signedIn('Wanjiru Holt');
    expect(await failure(wanjiru.start({ sessionId })), 'of somebody else').toBe('SESSION_NOT_FOUND');
  });

  it('of a handover that was accepted is an accepted handover', async () => {
    const { technician } = await house.sessionUnderWay();
    const handoverId = randomUUID();
    await technician.command({ type: 'requestHandover', handoverId, toTechnicianId: 'rune', remark: '' });
    const rune = await house.signedIn('Rune Takahashi');
    line.loseCommitAnswers();
    expect((await rune.answerHandover(handoverId, 'accept')).sessionId).toBe(technician.sessionId);
    await until('it to be told', () => technician.state.handover?.stage === 'accepted');
  });

  it('of a way in is one use of it, and whoever it was is in; who tries again finds the same way in', async () => {
    const rest = await house.signedIn('Wanjiru Holt');
    const { session, code } = await rest.start({});
    const { link, invitation } = await rest.invite(session.id, { way: 'link', uses: 1 });
    for (const by of [{ code: code.digits }, { link: link.split('/').at(-1) ?? '' }]) {
      const door = new RestClient(fetchExchange(house.url));
      line.loseCommitAnswers();
      const { token } = await door.join({ ...by, as: 'doorstep' });
      expect(line.answersToLose).toBe(0);
      expect((await door.join({ ...by, as: 'doorstep' })).token).toBe(token);
      const another = new RestClient(fetchExchange(house.url));
      expect(await failure(another.join({ ...by, as: 'doorstep' }))).toMatch(/^(CODE_USED|INVITATION_USED_UP)$/);
    }
    expect((await rest.invitations(session.id)).find(({ id }) => id === invitation.id)?.uses).toBe(1);
  });

  it('of a fact that another program of the same person tells again stands once', async () => {
    const { technician, link } = await house.sessionUnderWay();
    const first = await house.bareDoorstep({ link });
    const id = randomUUID();
    const command = { type: 'setAway' as const, isAway: true, fact: 1 };
    await first.command(command, id);
    const second = await house.bareDoorstep({ link });
    expect(await failure(second.command(command, id))).toBe('no failure');
    await say(technician, 'after it');
    expect(technician.entries.filter((e) => e.event.type === 'customerAway')).toHaveLength(1);
  });
});

describe('many words at once', () => {
  it('come in order and whole, in one burst and after a service that was down, and nobody is cut off', async () => {
    const { technician, customer } = await house.sessionUnderWay();
    let cuts = 0;
    customer.on('status', (status) => {
      if (status === 'waiting') cuts++;
    });
    const burst = Array.from({ length: 320 }, (_, i) => `burst ${i}`);
    await Promise.all(burst.map((text) => say(customer, text)));
    expect([chats(technician), cuts]).toEqual([burst, 0]);
    await house.killService();
    const later = Array.from({ length: 300 }, (_, i) => `later ${i}`);
    const said = later.map((text) => say(customer, text));
    await house.startService();
    await Promise.all(said);
    await until('all of it', () => chats(technician).length === 620);
    expect(chats(technician).slice(320)).toEqual(later);
    expect(cuts).toBe(1);
  });
});

describe('records that stall', () => {
  it('are said to be down within the patience, never silently, and everything goes on afterwards', async () => {
    const { technician } = await house.sessionUnderWay();
    const rest = await house.signedIn();
    line.freeze();
    // Frozen until all have their answer: what waited without a limit would wait for ever.
    const answers = await Promise.all([
      failure(rest.sessions('')),
      failure(rest.start({})),
      failure(say(technician, 'into the void')),
    ]);
    expect(new Set(answers)).toEqual(new Set(['RECORDS_DOWN']));
    expect((await fetch(`${house.url}/healthz`)).status).toBe(200);
    expect((await fetch(`${house.url}/readyz`)).status).toBe(503);
    line.thaw();
    await until('it to be ready again', async () => (await fetch(`${house.url}/readyz`)).status === 200);
    await say(technician, 'and on');
    await until('it', () => chats(technician).includes('and on'));
  });

  it('keep nobody from starting: the service waits for them, and says so', async () => {
    await house.killService();
    line.down();
    const starting = house.startService();
    setTimeout(() => line.up(), 2_500);
    await starting;
    expect((await fetch(`${house.url}/readyz`)).status).toBe(200);
  });

  it('keep nobody from starting when one connection of the start is never answered', async () => {
    await house.killService();
    // The first is the pool's, the second holds the lock that says who serves these records.
    line.leaveOneUnanswered(1);
    await house.startService();
    expect([line.hasLeftOneUnanswered, (await fetch(`${house.url}/readyz`)).status]).toEqual([true, 200]);
  });

  it('delay what is due, and do not lose it', async () => {
    const { technician, customer } = await house.sessionUnderWay();
    line.down();
    technician.close();
    // Longer than the grace and the patience together: it was tried in vain, and is tried again.
    await new Promise((resolve) => setTimeout(resolve, 14_000));
    line.up();
    await until('the technician to be out', () => customer.state.participants[technician.participantId]?.isGone);
  });

  it('leave no participant behind who said hello and died meanwhile', async () => {
    const { customer, link } = await house.sessionUnderWay();
    const rest = new RestClient(fetchExchange(house.url));
    rest.token = (await rest.join({ link, as: 'doorstep' })).token;
    const pass = await rest.doorLive();
    const program = new RawProgram(house.liveUrl);
    const hello = await program.helloWith(pass, makeKeys());
    line.freeze();
    program.socket.send(hello);
    await new Promise((resolve) => setTimeout(resolve, 300));
    program.socket.terminate();
    line.thaw();
    await until('it to be in', () =>
      customer.entries.some((e) => e.event.type === 'participantJoined' && e.event.role === 'doorstep'),
    );
    await until('it to be out again', () => customer.state.holderId === undefined);
  });
});

describe('a session that nobody is in', () => {
  it('ends by itself, costs no place of its technician, and is not kept in memory', async () => {
    const ilse = await house.signedIn('Ilse Marchetti');
    const { technician, customer, id } = await house.sessionUnderWay('Ilse Marchetti');
    technician.close();
    customer.close();
    await until('its end', async () => (await ilse.session(id)).phase === 'ended');
    const metric = async (name: string) =>
      Number((await (await fetch(`${house.url}/metrics`)).text()).match(new RegExp(`^${name} (\\d+)`, 'm'))?.[1]);
    await until('the room to go', async () => (await metric('porch_open_sessions')) < 10);
    const rows = await house.query<{ header: Buffer }>(
      `SELECT "header" FROM "ledger_row" WHERE "session_id" = $1 ORDER BY "seq" DESC LIMIT 1`,
      [id],
    );
    expect(JSON.parse(rows[0]?.header.toString() ?? '{}')).toMatchObject({ type: 'sessionEnded', reason: 'nobody' });
    // Its technician can still say how it was.
    const back = await house.technician(ilse, id);
    expect(
      await failure(back.command({ type: 'logOutcome', outcome: 'follow-up', minutes: 1, note: 'The line was gone.' })),
    ).toBe('no failure');
  });
});
