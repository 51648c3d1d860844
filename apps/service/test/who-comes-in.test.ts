import { areWordsSame } from '@porch/core';
import { fetchExchange, RestClient } from '@porch/client';
import { House, RawProgram, until, failure } from '@porch/testkit';
import { keepKeys, makeKeys, startAgainWith, type AppError } from '@porch/wire';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { allowed } from './bare-doorstep.ts';

let house: House;
beforeAll(async () => {
  house = await House.open({ hasTickets: true, hasDirectory: true });
});
afterAll(() => house.close());

const tokenOf = (link: string) => link.split('/').at(-1) ?? '';
const bearer = (token: string) => {
  const rest = new RestClient(fetchExchange(house.url));
  rest.token = token;
  return rest;
};

describe('hello', () => {
  it('is believed only from who has the secret half of the keys that it names', async () => {
    const { id, technician } = await house.sessionUnderWay();
    const pim = await house.signedIn();
    // Public keys stand in the ledger for everybody in the session.
    const { signKey, agreeKey } = technician.keys;
    const stolen = { ...makeKeys(), signKey, agreeKey };
    const thief = new RawProgram(house.liveUrl);
    thief.socket.send(await thief.helloWith(await pim.livePass(id), stolen));
    expect((await thief.closed).reason).toBe('HELLO_UNPROVEN');
    // Nor is a proof that was made for another socket.
    const keys = makeKeys();
    const [first, second] = [new RawProgram(house.liveUrl), new RawProgram(house.liveUrl)];
    const forFirst = await first.helloWith(await pim.livePass(id), keys);
    await second.nonce();
    second.socket.send(forFirst);
    expect((await second.closed).reason).toBe('HELLO_UNPROVEN');
    first.socket.close();
    expect(technician.state.participants[technician.participantId]?.isGone).toBe(false);
  });

  it('brings the same pairs back as who they were, with a start of their own; an earlier start is refused', async () => {
    const { id } = await house.sessionUnderWay();
    const pim = await house.signedIn();
    const first = makeKeys();
    const one = await new RawProgram(house.liveUrl).comeIn(await pim.livePass(id), first);
    const me = one.told.find((m) => m.type === 'welcome')?.['participantId'];
    one.socket.terminate();
    const again = startAgainWith(keepKeys(first));
    expect([again.signKey, again.agreeKey]).toEqual([first.signKey, first.agreeKey]);
    const two = await new RawProgram(house.liveUrl).comeIn(await pim.livePass(id), again);
    expect(two.told.find((m) => m.type === 'welcome')?.['participantId']).toBe(me);
    const old = new RawProgram(house.liveUrl);
    old.socket.send(await old.helloWith(await pim.livePass(id), first));
    expect((await old.closed).reason).toBe('NOT_PRESENT');
    two.socket.close();
  });

  it('of who was replaced is refused for good, and so is everything they report', async () => {
    const { id } = await house.sessionUnderWay();
    const pim = await house.signedIn();
    const [first, second] = [makeKeys(), makeKeys()];
    const one = await new RawProgram(house.liveUrl).comeIn(await pim.livePass(id), first);
    await new RawProgram(house.liveUrl).comeIn(await pim.livePass(id), second);
    expect((await one.closed).reason).toBe('NOT_PRESENT');
    const back = new RawProgram(house.liveUrl);
    back.socket.send(await back.helloWith(await pim.livePass(id), first));
    expect((await back.closed).reason).toBe('REPLACED');
  });
});

describe('a pass', () => {
  it('opens only what its role is for', async () => {
    const pim = await house.signedIn();
    const started = await pim.start({});
    const link = tokenOf(started.link);
    const page = await house.customer({ link });
    const own = tokenOf((await page.rest.door()).doorstepLink);
    const doorstep = bearer((await page.rest.join({ link: own, as: 'doorstep' })).token);
    for (const invitation of [bearer(link), bearer(own)])
      for (const call of [
        () => invitation.door(),
        () => invitation.doorLive(),
        () => invitation.doorDownload(),
        () => invitation.receipt(),
      ])
        expect(await failure(call())).toBe('PASS_NOT_FOR_THIS');
    expect(await failure(doorstep.doorDownload())).toBe('PASS_NOT_FOR_THIS');
    expect((await doorstep.door()).doorstepLink, 'a Doorstep asks nobody else in').toBe('');
    // Looking makes no new passes.
    const count = async () =>
      (
        await house.query(`SELECT count(*)::int AS n FROM "door_pass" WHERE "session_id" = $1`, [started.session.id])
      )[0];
    const before = await count();
    for (let i = 0; i < 5; i++) await page.rest.door();
    expect(await count()).toEqual(before);
  });

  it('dies with the invitation it came from, until its bearer is in', async () => {
    const pim = await house.signedIn();
    const started = await pim.start({});
    const { invitation, link } = await pim.invite(started.session.id, { way: 'qr' });
    const visitor = bearer('');
    const pass = bearer((await visitor.join({ link: tokenOf(link), as: 'doorstep' })).token);
    expect((await pass.door()).sessionId).toBe(started.session.id);
    await pim.withdrawInvitation(started.session.id, invitation.id);
    expect(await failure(pass.door())).toBe('INVITATION_UNKNOWN');
    expect(await failure(pass.doorLive())).toBe('INVITATION_UNKNOWN');
    expect(await failure(visitor.join({ link: tokenOf(link), as: 'page' }))).toBe('INVITATION_WITHDRAWN');
  });

  it('leads nowhere once the session is over, but for the copy of who was in', async () => {
    const { technician, customerRest, link } = await house.sessionUnderWay();
    const never = bearer((await customerRest.join({ link, as: 'doorstep' })).token);
    await technician.command({ type: 'endSession', reason: 'technician', why: 'done' });
    await until('the end', () => technician.state.phase.name === 'ended');
    expect(await failure(bearer('').join({ link, as: 'doorstep' }))).toBe('INVITATION_UNKNOWN');
    expect(await failure(never.doorLive())).toBe('INVITATION_UNKNOWN');
    expect((await customerRest.receipt()).customerName).toBe('Bettina Crole');
  });
});

describe('when the customer has accepted', () => {
  it('an overheard code or a link that was passed on brings nobody in, for either seat', async () => {
    const pim = await house.signedIn();
    const started = await pim.start({});
    const page = await house.customer({ code: started.code.digits });
    await page.live.command({ type: 'introduceCustomer', name: 'Samir Oduya', address: '' });
    await page.live.command({ type: 'answerCall', answer: 'i-called' });
    await page.live.command({ type: 'acceptSession', noticeVersion: '2026-11' });
    for (const as of ['page', 'doorstep'] as const) {
      expect(await failure(bearer('').join({ code: started.code.digits, as }))).toBe('CODE_USED');
      expect(await failure(bearer('').join({ link: tokenOf(started.link), as }))).toBe('INVITATION_USED_UP');
    }
    // Their own page still leads to their own Doorstep, and they come back with the page that they have.
    await house.bareDoorstep({ link: tokenOf((await page.rest.door()).doorstepLink) });
    expect((await page.rest.doorLive()).sessionId).toBe(started.session.id);
    // Whom the technician asks in anew comes in.
    const { link } = await pim.invite(started.session.id, { way: 'qr' });
    expect(await failure(bearer('').join({ link: tokenOf(link), as: 'page' }))).toBe('no failure');
  });

  it('another Doorstep takes the place of the one that is there only with the technician’s yes, told to both', async () => {
    const { technician, customer, link } = await house.sessionUnderWay();
    const first = await house.bareDoorstep({ link });
    await allowed(technician, first, 'view-screen');
    const second = await house.bareDoorstep({ link });
    await until('the wish', () => technician.state.candidateId === second.participantId);
    expect([technician.state.holderId, second.state.holderId]).toEqual([first.participantId, first.participantId]);
    expect(
      await failure(second.command({ type: 'startControl', participantId: technician.participantId })),
      'what is not the holder cannot say that it is worked with',
    ).toBe('NOT_THE_CONSENT_HOLDER');
    expect(
      await failure(second.command({ type: 'answerChangeOver', participantId: second.participantId, isYes: true })),
    ).toBe('NOT_THE_LEAD');
    // No: it goes, and nothing has changed.
    await technician.command({ type: 'answerChangeOver', participantId: second.participantId, isYes: false });
    await until('it to go', () => technician.state.participants[second.participantId]?.isGone);
    expect(technician.state.standings[technician.participantId]?.['view-screen']?.name).toBe('allowed');
    // Yes: what was allowed was allowed by the other one.
    const third = await house.bareDoorstep({ link });
    await until('the wish', () => technician.state.candidateId === third.participantId);
    const out = new Promise<AppError>((resolve) => first.on('failed', resolve));
    await technician.command({ type: 'answerChangeOver', participantId: third.participantId, isYes: true });
    await until('the change', () => customer.state.holderId === third.participantId);
    expect((await out).code).toBe('NOT_PRESENT');
    expect(technician.state.standings[technician.participantId]?.['view-screen']?.name).toBe('over');
    const told = customer.entries.map((e) => e.event.type);
    expect(told.filter((type) => type === 'changeOverWanted')).toHaveLength(2);
    expect(told.filter((type) => type === 'changeOverAnswered')).toHaveLength(2);
  });

  it('words that another Doorstep compares do not count', async () => {
    const { technician, link } = await house.sessionUnderWay();
    const first = await house.bareDoorstep({ link });
    const second = await house.bareDoorstep({ link });
    await until('both', () => technician.state.candidateId === second.participantId);
    const { participantId } = technician;
    await second.command({ type: 'compareWords', participantId, isSame: true, fact: 1 });
    expect(areWordsSame(technician.state, participantId)).toBeUndefined();
    await first.command({ type: 'compareWords', participantId, isSame: true, fact: 5 });
    await until('the words', () => areWordsSame(technician.state, participantId));
    // Played again, a fact gives nothing back.
    await first.command({ type: 'compareWords', participantId, isSame: false, fact: 6 });
    await first.command({ type: 'compareWords', participantId, isSame: true, fact: 5 });
    await until('the last word', () => technician.entries.at(-1)?.event.type === 'factNoted');
    expect(areWordsSame(technician.state, participantId)).toBe(false);
  });
});

describe('who the customer is', () => {
  it('is bound to who proved it, and told to nobody who holds only a code or a link', async () => {
    const pim = await house.signedIn();
    const started = await pim.start({ ticketRef: 'MF-201' });
    const ticketLink = tokenOf((await pim.invite(started.session.id, { way: 'ticket-comment' })).link);
    const stranger = new RawProgram(house.liveUrl);
    const byCode = bearer((await bearer('').join({ code: started.code.digits, as: 'doorstep' })).token);
    const door = await byCode.door();
    expect([door.customerName, door.customerAddress, door.purpose]).toEqual([
      '',
      '',
      expect.stringContaining('barcode'),
    ]);
    const requester = await house.customer({ link: ticketLink });
    expect([(await requester.rest.door()).customerName, requester.live.state.identity]).toEqual([
      'Bettina Crole',
      'confirmed-by-ticket',
    ]);
    await requester.live.command({
      type: 'introduceCustomer',
      name: 'Bettina Crole',
      address: 'bettina.crole@marrowick.example',
    });
    await stranger.comeIn(await byCode.doorLive());
    await until('the other', () => Object.keys(requester.live.state.participants).length > 1);
    expect(requester.live.state.identity, 'as sure as the least sure of them').toBe('said-so-themselves');
    stranger.command({ type: 'leaveSession', reason: 'gone' });
    await until('them to be sure again', () => requester.live.state.identity === 'confirmed-by-ticket');
    expect(Buffer.concat(stranger.bytes).toString()).not.toMatch(/confirmed-by-ticket.*Bettina/);
    for (const word of ['Bettina', 'bettina.crole']) expect(readable(stranger)).not.toContain(word);
  });

  it('and what only the desk may read reaches no customer’s program, in a whole session, in any byte', async () => {
    const marks = {
      note: 'Note-for-the-desk-only-7f3a',
      remark: 'Remark-for-the-colleague-91bc',
      aside: 'Aside-between-us-c04d',
      address: 'bettina.crole@marrowick.example',
    };
    const pim = await house.signedIn();
    const started = await pim.start({ ticketRef: 'MF-201' });
    const link = tokenOf(started.link);
    const keys = makeKeys();
    const programs: RawProgram[] = [];
    const come = async (rest: RestClient) => {
      const program = await new RawProgram(house.liveUrl).comeIn(
        await rest.doorLive(),
        programs.length ? makeKeys() : keys,
      );
      programs.push(program);
      return program;
    };
    const door = bearer((await bearer('').join({ link, as: 'doorstep' })).token);
    const program = await come(door);
    program.command({ type: 'introduceCustomer', name: 'Somebody Else', address: '' });
    program.command({ type: 'answerCall', answer: 'i-called' });
    await program.answerTo(program.command({ type: 'acceptSession', noticeVersion: '2026-11' }));
    const technician = await house.technician(pim, started.session.id);
    await technician.aside(marks.aside);
    await technician.command({
      type: 'requestHandover',
      handoverId: crypto.randomUUID(),
      toTechnicianId: 'rune',
      remark: marks.remark,
    });
    await technician.command({ type: 'endSession', reason: 'technician', why: 'done' });
    await technician.command({ type: 'logOutcome', outcome: 'resolved', minutes: 3, note: marks.note });
    await until('the last entry', () => readable(program).includes('outcomeLogged'));
    const copy = JSON.stringify(await door.receipt());
    for (const [what, mark] of Object.entries(marks)) {
      expect(readable(program), what).not.toContain(mark);
      expect(copy, what).not.toContain(mark);
    }
    // The technician has them, and both have the same chain.
    expect(JSON.stringify(technician.entries)).toContain(marks.note);
    expect(readable(program)).toContain(technician.head.hash);
  });
});

/** Everything that reached a program, with what was sent as base64 opened. */
function readable(program: RawProgram): string {
  const text = Buffer.concat(program.bytes).toString();
  const opened = [...text.matchAll(/"(?:header|body)":"([A-Za-z0-9+/=]+)"/g)].map(([, base64]) =>
    Buffer.from(base64 ?? '', 'base64').toString(),
  );
  return `${text}\n${opened.join('\n')}`;
}
