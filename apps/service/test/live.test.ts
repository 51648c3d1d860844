import { makeKeys, errorCatalogue } from '@porch/wire';
import { House, RawProgram, until, failure } from '@porch/testkit';
import { fetchExchange, RestClient, type LiveConnection } from '@porch/client';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

const chats = (live: LiveConnection) =>
  live.entries.flatMap((e) => (e.event.type === 'chatSent' ? [e.event.personal?.text] : []));
const say = (live: LiveConnection, text: string) =>
  live.command({ type: 'sendChat', messageId: crypto.randomUUID(), text });

/** A program at the door of a new session, with what it would say. */
async function hello(program: RawProgram, change: object = {}): Promise<string> {
  const pim = await house.signedIn();
  const { session } = await pim.start({});
  return program.helloWith(await pim.livePass(session.id), makeKeys(), change);
}
async function letIn(program: RawProgram): Promise<void> {
  program.socket.send(await hello(program));
  await until('to be let in', () => program.told.some((m) => m.type === 'caughtUp'));
}

describe('bad manners on the socket', () => {
  const cases: [string, string, (program: RawProgram) => Promise<void> | void][] = [
    ['no JSON', 'MESSAGE_INVALID', (p) => p.socket.send('{')],
    ['an unknown message before hello', 'OUT_OF_ORDER', (p) => p.socket.send('{"type":"open the door"}')],
    ['a message without a type', 'MESSAGE_INVALID', (p) => p.socket.send('{"kind":"open the door"}')],
    ['another protocol version', 'PROTOCOL_VERSION', async (p) => p.socket.send(await hello(p, { version: 99 }))],
    ['a program from before', 'PROTOCOL_VERSION', (p) => p.say({ type: 'hello', version: 2, pass: 'p', lastSeq: 0 })],
    ['a made-up pass', 'PASS_INVALID', async (p) => p.socket.send(await hello(p, { pass: 'made up' }))],
    ['something else before hello', 'OUT_OF_ORDER', (p) => p.say({ type: 'beat', sentAtMs: 1 })],
    ['binary before hello', 'OUT_OF_ORDER', (p) => p.socket.send(Buffer.alloc(40))],
    [
      'two hellos',
      'OUT_OF_ORDER',
      async (p) => {
        const text = await hello(p);
        p.socket.send(text);
        p.socket.send(text);
      },
    ],
    [
      'anything before its hello is answered',
      'OUT_OF_ORDER',
      async (p) => {
        p.socket.send(await hello(p));
        p.say({ type: 'beat', sentAtMs: 1 });
      },
    ],
    [
      'a history that is not ours',
      'OUT_OF_ORDER',
      async (p) => p.socket.send(await hello(p, { lastSeq: 2, lastHash: 'ff'.repeat(32) })),
    ],
    [
      'a frame cut short',
      'MESSAGE_INVALID',
      async (p) => {
        await letIn(p);
        p.socket.send(Buffer.from([1, 2, 3]));
      },
    ],
    [
      'a frame in the name of another seat',
      'MESSAGE_INVALID',
      async (p) => {
        await letIn(p);
        const frame = Buffer.alloc(24);
        frame[0] = 1;
        frame[1] = 3;
        frame[2] = 1;
        frame.writeUInt16BE(77, 4);
        p.socket.send(frame);
      },
    ],
    [
      'more text than a message may have',
      'MESSAGE_TOO_LARGE',
      (p) => p.say({ type: 'beat', sentAtMs: 'x'.repeat(100_000) }),
    ],
  ];
  it.each(cases)('%s is answered with %s', async (_what, code, act) => {
    const program = new RawProgram(house.liveUrl);
    await program.nonce();
    await act(program);
    expect(await program.closed).toEqual({ code: errorCatalogue[code as 'SILENT'].closeCode, reason: code });
  });
  it('a message beyond all measure ends the connection, and the service goes on', async () => {
    const program = new RawProgram(house.liveUrl);
    await program.nonce();
    program.socket.send(Buffer.alloc(2 * 1024 * 1024));
    expect((await program.closed).code).toBe(1009);
    expect((await fetch(`${house.url}/api/health`)).status).toBe(200);
  });
  it('a participant that sends far beyond the window is shown out, and the others stay', async () => {
    const { technician, customer, id } = await house.sessionUnderWay();
    const pim = await house.signedIn();
    const flooding = await new RawProgram(house.liveUrl).comeIn(await pim.livePass(id));
    for (let i = 0; i < 1_000; i++)
      flooding.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: `flood ${i}` });
    expect((await flooding.closed).reason).toBe('TOO_MANY_MESSAGES');
    await say(customer, 'I am still here');
    expect(technician.entries.length).toBeGreaterThan(0);
  });
  it('a participant that sends faster than the pace is read more slowly, and loses nothing', async () => {
    const { id } = await house.sessionUnderWay();
    const pim = await house.signedIn();
    const program = await new RawProgram(house.liveUrl).comeIn(await pim.livePass(id));
    for (let i = 0; i < 400; i++) program.say({ type: 'beat', sentAtMs: i });
    await until('every beat to be answered', () => program.told.filter((m) => m.type === 'beat').length === 400);
    program.socket.close();
  });
  it('a command that is none is refused by its id, and the connection stays', async () => {
    const { id } = await house.sessionUnderWay();
    const pim = await house.signedIn();
    const program = await new RawProgram(house.liveUrl).comeIn(await pim.livePass(id));
    const note = program.command({ type: 'logOutcome', outcome: 'resolved', minutes: 1, note: 'x'.repeat(8_001) });
    expect(await program.answerTo(note)).toMatchObject({ type: 'refused', code: 'MESSAGE_INVALID' });
    const nul = program.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'a\u0000b' });
    expect(await program.answerTo(nul)).toMatchObject({ type: 'refused', code: 'MESSAGE_INVALID' });
    const chat = program.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'still here' });
    expect(await program.answerTo(chat)).toMatchObject({ type: 'accepted' });
    program.socket.close();
  });
});

describe('what is said', () => {
  it('comes in order and once, over a service that is killed in the middle', async () => {
    const { technician, customer } = await house.sessionUnderWay();
    const sent: string[] = [];
    const sending: Promise<void>[] = [];
    for (let i = 0; i < 12; i++) {
      for (const [who, live] of [
        ['t', technician],
        ['c', customer],
      ] as const) {
        sent.push(`${who}${i}`);
        sending.push(say(live, `${who}${i}`));
      }
      if (i === 5) await house.killService();
      if (i === 7) await house.startService();
    }
    await Promise.all(sending);
    for (const live of [technician, customer]) {
      await until('all that was said', () => chats(live).length >= sent.length);
      expect([...chats(live)].sort()).toEqual([...sent].sort());
      expect(chats(live).filter((t) => t?.startsWith('t'))).toEqual(sent.filter((t) => t.startsWith('t')));
      expect(chats(live).filter((t) => t?.startsWith('c'))).toEqual(sent.filter((t) => t.startsWith('c')));
    }
    expect(chats(technician)).toEqual(chats(customer));
    expect(technician.head).toEqual(customer.head);
  });

  it('waits for records that restart, and is not lost', async () => {
    const { technician, customer } = await house.sessionUnderWay();
    // Every connection to this database is cut and none let in for a while, as when PostgreSQL restarts.
    const name = house.databaseUrl.split('/').at(-1) ?? '';
    const pg = await import('pg');
    const admin = new pg.default.Client({ connectionString: house.databaseUrl.replace(/\/[^/]+$/, '/postgres') });
    await admin.connect();
    await admin.query(`ALTER DATABASE "${name}" ALLOW_CONNECTIONS false`);
    await admin.query(`SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = $1`, [name]);
    const sending = say(technician, 'said while the records were away');
    expect(
      await Promise.race([
        sending.then(() => 'taken'),
        new Promise((resolve) => setTimeout(() => resolve('waits'), 400)),
      ]),
    ).toBe('waits');
    await admin.query(`ALTER DATABASE "${name}" ALLOW_CONNECTIONS true`);
    await admin.end();
    await sending;
    await until('the other side has it', () => chats(customer).includes('said while the records were away'));
  });

  it('keeps asides from the customer', async () => {
    const { technician, customer, rest, id } = await house.sessionUnderWay();
    await technician.aside('She sounds worried.');
    await until('the aside', () => technician.asides.length === 1);
    await say(technician, 'after it');
    await until('what came after', () => chats(customer).includes('after it'));
    expect(customer.asides).toEqual([]);
    expect(JSON.stringify(customer.entries)).not.toContain('worried');
    expect((await rest.ledger(id)).asides[0]?.text).toBe('She sounds worried.');
  });
});

describe('who may do what', () => {
  it('a trainee may ask to see and nothing more', async () => {
    const { technician, link } = await house.sessionUnderWay('Noor Castellane');
    await house.bareDoorstep({ link });
    await until('Doorstep', () => technician.state.holderId);
    expect(
      await failure(
        technician.command({
          type: 'askPermissions',
          askId: crypto.randomUUID(),
          permissions: ['view-screen', 'control-input'],
        }),
      ),
    ).toBe('NOT_ALLOWED_BY_DESK');
    expect(
      await failure(
        technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] }),
      ),
    ).toBe('no failure');
  });
  it('a session is nobody else’s business', async () => {
    const { id } = await house.sessionUnderWay();
    const ilse = await house.signedIn('Ilse Marchetti');
    for (const code of await Promise.all(
      [ilse.session(id), ilse.ledger(id), ilse.livePass(id), ilse.draft(id), ilse.newCode(id)].map(failure),
    ))
      expect(['SESSION_NOT_FOUND', 'NOT_THE_LEAD']).toContain(code);
    expect(await failure((await house.signedIn('Odalys Brandt')).ledger(id)), 'a lead may read').toBe('no failure');
  });
  it('a page cannot make a grant that counts', async () => {
    const { technician, customer, link } = await house.sessionUnderWay();
    await house.bareDoorstep({ link });
    await until('Doorstep', () => technician.state.holderId);
    const askId = crypto.randomUUID();
    await technician.command({ type: 'askPermissions', askId, permissions: ['view-screen'] });
    expect(
      await failure(customer.command({ type: 'grantAsk', askId, grants: [{ statement: '{}', signature: '00' }] })),
    ).toBe('NOT_THE_CONSENT_HOLDER');
    expect(await failure(customer.command({ type: 'refuseAsk', askId }))).toBe('no failure');
  });
  it('a Doorstep that was away too long has no place any longer, but what the person decided is still heard', async () => {
    const short = await House.open({ env: { PORCH_GRACE_SECONDS: '0.3' } });
    try {
      const { technician, link } = await short.sessionUnderWay();
      const door = new RestClient(fetchExchange(short.url));
      door.token = (await door.join({ link, as: 'doorstep' })).token;
      const keys = makeKeys();
      const come = async () => new RawProgram(short.liveUrl).comeIn(await door.doorLive(), keys);
      const first = await come();
      first.socket.close();
      await until('its place to be given up', () => technician.entries.some((e) => e.event.type === 'participantLeft'));
      expect(technician.state.holderId).toBeUndefined();
      const second = await come();
      second.command({ type: 'endSession', reason: 'stop', why: 'pressed Stop', fact: 1 });
      await until('Stop to be heard', () => technician.state.phase.name === 'ended');
      second.socket.close();
    } finally {
      await short.close();
    }
  });
  it('an offered handover goes back when its time is up', async () => {
    const quick = await House.open({ env: { PORCH_HANDOVER_SECONDS: '1' } });
    try {
      const { technician } = await quick.sessionUnderWay();
      await technician.command({
        type: 'requestHandover',
        handoverId: crypto.randomUUID(),
        toTechnicianId: 'rune',
        remark: '',
      });
      const rune = await quick.signedIn('Rune Takahashi');
      expect((await rune.porch()).handovers).toHaveLength(1);
      await until('it goes back', () => technician.entries.some((e) => e.event.type === 'handoverClosed'));
      expect((await rune.porch()).handovers).toHaveLength(0);
    } finally {
      await quick.close();
    }
  });
});
