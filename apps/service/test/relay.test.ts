import { LocalPicture, WatchedPictures, type LiveConnection } from '@porch/client';
import type { Permission } from '@porch/core';
import { decodeWanted } from '@porch/screen';
import {
  contentHead,
  encodeFrameHeader,
  encodeWords,
  EVERY_VIEWER,
  frameKinds,
  joinContent,
  ownScreenChannel,
  PairwiseChannel,
} from '@porch/wire';
import { codecs, House, lookAt, PaintedDesktop, showsOwn, until, failure } from '@porch/testkit';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { allowed, sharing } from './bare-doorstep.ts';

let house: House;
beforeAll(async () => {
  house = await House.open({ env: { PORCH_MAX_FILE_MB: '1' } });
});
afterAll(() => house.close());

async function withHolder(can?: readonly Permission[]) {
  const s = await house.sessionUnderWay();
  const doorstep = await house.bareDoorstep({ link: s.link }, undefined, can);
  await until('Doorstep', () => s.technician.state.holderId);
  return { ...s, doorstep };
}
function watching(technician: LiveConnection, from?: number) {
  let frames = 0;
  const seen = lookAt(technician, 0, from);
  const { viewer } = seen.picture;
  const take = viewer.take.bind(viewer);
  viewer.take = (bytes) => {
    frames++;
    take(bytes);
  };
  const shows = (colour: number) => () => seen.isComplete() && seen.pixels().every((p) => p === colour);
  return { ...seen, frames: () => frames, shows };
}

describe('the picture', () => {
  it('reaches nobody without the customer’s yes, and nobody after a no', async () => {
    const { technician, customer, doorstep } = await withHolder();
    const { painted } = sharing(doorstep);
    const { frames, shows } = watching(technician);
    painted.fill(0x111111);
    await technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'after the update' });
    expect([frames(), doorstep.viewers]).toEqual([0, []]);
    await allowed(technician, doorstep, 'view-screen');
    painted.fill(0x222222);
    await until('the picture', shows(0x222222));
    await customer.command({
      type: 'withdrawPermission',
      participantId: technician.participantId,
      permission: 'view-screen',
      why: 'enough',
    });
    await until('nobody to look', () => doorstep.viewers.length === 0);
    const before = frames();
    painted.fill(0x333333);
    await technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'after that' });
    expect(frames()).toBe(before);
  });

  it('is asked for whole when a viewer comes and the relay has nothing, and comes again to who looks again', async () => {
    const { technician, doorstep, rest, id } = await withHolder();
    const wanted: number[][] = [];
    doorstep.on('frame', ({ frame }) => {
      if (frame.channel === 'screen' && frame.kind === frameKinds.screen.want) wanted.push(decodeWanted(frame.payload));
    });
    const { painted } = sharing(doorstep);
    painted.fill(0x445566);
    await allowed(technician, doorstep, 'view-screen');
    const first = watching(technician);
    await until('everything to be wanted', () => wanted.some((tiles) => tiles.length === 0));
    await until('the picture', first.shows(0x445566));
    first.stop();
    expect(first.isComplete(), 'nothing stays of what is not looked at').toBe(false);
    first.look.open(first.picture);
    await until('it to come again', first.shows(0x445566));
    expect((await rest.session(id)).phase).toBe('live');
  });

  it('after a lost line only what changed meanwhile comes, since the viewer says what it holds', async () => {
    const { technician, doorstep } = await withHolder();
    const { painted } = sharing(doorstep);
    painted.paint((x, y) => (x * 31) ^ (y * 17));
    await allowed(technician, doorstep, 'view-screen');
    const seen = watching(technician);
    // To the last pixel: what came as a photo at first is sharpened once it stands still, and that is news.
    const isSharp = () => seen.isFresh() && seen.pixels().every((p, i) => p === (painted.pixels[i] ?? 0));
    await until('the picture, sharp and vouched for', isSharp);
    const before = { frames: seen.frames(), versions: [...seen.picture.viewer.picture.versions] };
    house.cut(technician);
    await until('the line to be gone', () => technician.status !== 'live');
    painted.paint((x, y) => (x < 64 && y < 64 ? 0x123456 : (x * 31) ^ (y * 17)));
    await until('the change', () => seen.pixels()[0] === 0x123456);
    await until('it to be vouched for', seen.isFresh);
    const { versions } = seen.picture.viewer.picture;
    const same = before.versions.filter((version, tile) => versions[tile] === version);
    expect(same.length, 'all other tiles were held and did not come again').toBe(versions.length - 1);
  });

  it('goes on for the colleague through a handover, and ends for the first technician', async () => {
    const { technician: pim, doorstep } = await withHolder();
    const { painted } = sharing(doorstep);
    painted.fill(0x111111);
    await allowed(pim, doorstep, 'view-screen');
    const seenByPim = watching(pim);
    await until('Pim to see', seenByPim.shows(0x111111));
    await pim.command({
      type: 'requestHandover',
      handoverId: crypto.randomUUID(),
      toTechnicianId: 'rune',
      remark: 'My ferry leaves.',
    });
    const rest = await house.signedIn('Rune Takahashi');
    const [offer] = (await rest.porch()).handovers;
    expect(offer?.brief).toContain('Why: My ferry leaves.');
    await rest.answerHandover(offer?.handoverId ?? '', 'accept');
    const rune = await house.technician(rest, pim.sessionId);
    const seenByRune = watching(rune);
    painted.fill(0x222222);
    await until('Pim to see on', seenByPim.shows(0x222222));
    expect(seenByRune.frames(), 'nothing passes on by itself').toBe(0);
    const out = new Promise((resolve) => pim.on('failed', (e) => resolve(e.code)));
    await allowed(rune, doorstep, 'view-screen');
    await until('Rune to see what is there', seenByRune.shows(0x222222));
    expect(await out).toBe('NOT_PRESENT');
    expect(await failure(rest.answerHandover(offer?.handoverId ?? '', 'accept'))).toBe('HANDOVER_NOT_FOUND');
  });
});

describe('two technicians in one session', () => {
  it('each see by a yes for their own key, and what is taken back from one stays with the other', async () => {
    const { technician: pim, doorstep, customer } = await withHolder();
    const { painted } = sharing(doorstep);
    painted.fill(0x111111);
    const rest = await house.signedIn('Rune Takahashi');
    expect(await failure(rest.livePass(pim.sessionId)), 'nobody comes in unasked').toBe('SESSION_NOT_FOUND');
    const { id: technicianId } = await rest.me();
    await pim.command({ type: 'beside/letIn', technicianId, part: 'colleague' });
    const rune = await house.technician(rest, pim.sessionId);
    expect([pim, rune].map((live) => live.state.participants[live.participantId]?.part)).toEqual(['lead', 'colleague']);

    await allowed(pim, doorstep, 'view-screen');
    const [seenByPim, seenByRune] = [watching(pim), watching(rune)];
    await until('Pim to see', seenByPim.shows(0x111111));
    expect(seenByRune.frames(), 'nothing is shared').toBe(0);
    await allowed(rune, doorstep, 'view-screen');
    await until('Rune to see what is there', seenByRune.shows(0x111111));
    painted.fill(0x222222);
    await until('both to see what is new', () => seenByPim.shows(0x222222)() && seenByRune.shows(0x222222)());

    await customer.command({
      type: 'withdrawPermission',
      participantId: pim.participantId,
      permission: 'view-screen',
      why: 'enough',
    });
    await until('one to look', () => doorstep.viewers.length === 1);
    const before = seenByPim.frames();
    painted.fill(0x333333);
    await until('Rune to see on', seenByRune.shows(0x333333));
    expect(seenByPim.frames()).toBe(before);

    expect(await failure(rune.command({ type: 'askToTry' }))).toBe('NOT_THE_LEAD');
    const out = new Promise((resolve) => rune.on('failed', (e) => resolve(e.code)));
    await pim.command({ type: 'beside/sendAway', technicianId });
    expect(await out).toBe('NOT_PRESENT');
    await until('nobody to look', () => doorstep.viewers.length === 0);
    expect(await failure(rest.livePass(pim.sessionId))).toBe('SESSION_NOT_FOUND');
  });

  it('a picture is wanted by who shows it: what somebody else would show is nobody’s', async () => {
    const { technician, customer, doorstep } = await withHolder();
    const { painted } = sharing(doorstep);
    painted.fill(0x111111);
    await allowed(technician, doorstep, 'view-screen');
    const named = watching(technician, doorstep.seat);
    await until('the picture of whoever is named', named.shows(0x111111));
    named.stop();
    await until('nobody to look', () => doorstep.viewers.length === 0);
    const others = watching(technician, customer.seat);
    await technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'after the wish' });
    expect([others.frames(), doorstep.viewers]).toEqual([0, []]);
  });
});

describe('what a technician shows of their own', () => {
  it('reaches whoever holds the consent with leave for it, nobody else, and nobody after', async () => {
    const { technician, customer, doorstep } = await withHolder(['show-own-screen']);
    const { own, show } = showsOwn(technician);
    const painted = new PaintedDesktop(192, 128);
    painted.fill(0x222222);
    const frames = { doorstep: 0, page: 0 };
    const looking = (live: LiveConnection, who: keyof typeof frames) => {
      const look = new WatchedPictures(live, ownScreenChannel);
      const picture = new LocalPicture(live, 0, codecs, technician.seat);
      const take = picture.viewer.take.bind(picture.viewer);
      picture.viewer.take = (bytes) => {
        frames[who]++;
        take(bytes);
      };
      look.open(picture);
      return picture;
    };
    const seen = looking(doorstep, 'doorstep');
    looking(customer, 'page');
    // A program that does not ask: it sends as if it might, and the relay passes on nothing.
    const header = {
      kind: frameKinds.screen.whole,
      display: 0,
      senderSeat: technician.seat,
      receiverSeat: EVERY_VIEWER,
    };
    const loud = encodeFrameHeader({ channel: 'screen', ...header, epoch: 1, displayGeneration: 1, counter: 1n });
    technician.sendFrame(joinContent(contentHead(loud, new Uint8Array(0)), new Uint8Array(32)));
    await expect(show(painted)).rejects.toMatchObject({ code: 'NOT_GRANTED' });
    await technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'after it' });
    expect([frames, technician.viewers, technician.status]).toEqual([{ doorstep: 0, page: 0 }, [], 'live']);
    await allowed(technician, doorstep, 'show-own-screen');
    await show(painted);
    await until('the picture', () => seen.viewer.picture.isComplete);
    expect([own.isSeen, frames.page]).toEqual([true, 0]);
    const { participantId } = technician;
    const takenBack = { participantId, permission: 'show-own-screen', why: 'enough', fact: undefined } as const;
    await doorstep.command({ type: 'withdrawPermission', ...takenBack });
    await until('it to be over', () => own.over === 'not-allowed' && technician.viewers.length === 0);
    const before = frames.doorstep;
    painted.fill(0x333333);
    await technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'after the end' });
    expect(frames).toEqual({ doorstep: before, page: 0 });
    own.close();
  });
});

describe('what is sealed', () => {
  it('is passed on only between a technician with leave and the consent holder', async () => {
    const { technician, customer, doorstep } = await withHolder();
    const channel = new PairwiseChannel({
      sessionId: technician.sessionId,
      mine: technician.keys,
      mySeat: technician.seat,
      theirAgreeKey: doorstep.keys.agreeKey,
      theirStartId: doorstep.keys.startId,
      theirSeat: doorstep.seat,
      channel: 'input',
    });
    const arrived: string[] = [];
    for (const [who, live] of [
      ['doorstep', doorstep],
      ['page', customer],
    ] as const)
      live.on('frame', ({ frame }) => frame.channel === 'input' && arrived.push(who));
    const send = () => technician.sendFrame(channel.seal(encodeWords({ type: 'openLease' })));
    const settle = () => technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: '.' });
    send();
    await settle();
    expect(arrived).toEqual([]);
    await allowed(technician, doorstep, 'view-screen', 'control-input');
    send();
    await until('it to arrive', () => arrived.length > 0);
    const toPage = new PairwiseChannel({
      sessionId: technician.sessionId,
      mine: technician.keys,
      mySeat: technician.seat,
      theirAgreeKey: customer.keys.agreeKey,
      theirStartId: customer.keys.startId,
      theirSeat: customer.seat,
      channel: 'input',
    });
    technician.sendFrame(toPage.seal(encodeWords({ type: 'openLease' })));
    await settle();
    expect(arrived).toEqual(['doorstep']);
  });

  it('files are refused beyond the desk’s size, cancelled by either end, and confirmed only whole', async () => {
    const { technician, doorstep, customer } = await withHolder();
    await allowed(technician, doorstep, 'give-files');
    const offer = (sizeBytes: number, fileId: string = crypto.randomUUID()) => ({
      type: 'offerFile' as const,
      fileId,
      toId: doorstep.participantId,
      name: 'sheet.txt',
      sizeBytes,
      sha256: 'a'.repeat(64),
    });
    expect(await failure(technician.command(offer(1024 * 1024 + 1)))).toBe('FILE_TOO_LARGE');
    expect(await failure(technician.command({ ...offer(5), toId: technician.participantId }))).toBe('WRONG_ROLE');
    const [first, second] = [offer(5), offer(5)];
    await technician.command(first);
    expect(
      await failure(technician.command({ type: 'acceptFile', fileId: first.fileId })),
      'only the receiver accepts',
    ).toBe('WRONG_ROLE');
    await doorstep.command({ type: 'acceptFile', fileId: first.fileId });
    await doorstep.command({ type: 'confirmFile', fileId: first.fileId, sha256: 'b'.repeat(64) });
    await until('the wrong file to be noticed', () => technician.state.slices.files[first.fileId]?.stage === 'failed');
    await technician.command(second);
    await customer.command({ type: 'closeFile', fileId: second.fileId, how: 'cancelled', why: 'no' });
    expect(await failure(doorstep.command({ type: 'acceptFile', fileId: second.fileId }))).toBe('FILE_NOT_OPEN');
  });
});

it('an ask that nobody answers lapses by itself', async () => {
  const short = await House.open({ env: { PORCH_ASK_SECONDS: '1' } });
  try {
    const { technician, link } = await short.sessionUnderWay();
    const doorstep = await short.bareDoorstep({ link });
    await until('Doorstep', () => technician.state.holderId);
    await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
    const [ask] = Object.values(technician.state.asks);
    await until(
      'it to lapse',
      () => technician.state.standings[technician.participantId]?.['view-screen']?.name === 'lapsed',
    );
    expect(
      await failure(
        doorstep.command({ type: 'grantAsk', askId: ask?.id ?? '', grants: [{ statement: '{}', signature: '00' }] }),
      ),
    ).toBe('ASK_NOT_OPEN');
  } finally {
    await short.close();
  }
});
