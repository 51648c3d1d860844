import type { LiveConnection } from '@porch/client';
import type { Permission } from '@porch/core';
import { decodeWanted, encodeAck, encodeUpdate, gridFor, inflateInPlainCode, ViewerPicture } from '@porch/screen';
import { encodeFrame, encodeSealedJson, EVERY_VIEWER, frameKinds, PairwiseChannel, signGrant } from '@porch/wire';
import { House, until } from '@porch/testkit';
import { deflateRawSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open({ env: { PORCH_MAX_FILE_MB: '1' } });
});
afterAll(() => house.close());
const failure = (work: Promise<unknown>) =>
  work.then(
    () => 'no failure',
    (error: { code?: string }) => error.code,
  );

/** Doorstep's side without a desktop: agrees to whatever is open, with its own signature. */
async function agree(doorstep: LiveConnection): Promise<void> {
  const ask = await until('an ask', () => Object.values(doorstep.state.asks)[0]);
  const technician = doorstep.state.participants[ask.participantId];
  const endsAtMs = Date.now() + 60_000;
  const grants = ask.permissions.map((permission, i) =>
    signGrant(doorstep.keys, {
      sessionId: doorstep.sessionId,
      permission,
      technicianSignKey: technician?.signKey ?? '',
      technicianAgreeKey: technician?.agreeKey ?? '',
      number: doorstep.state.lastGrantNumber + 1 + i,
      endsAtMs,
    }),
  );
  await doorstep.command({ type: 'grantAsk', askId: ask.id, grants });
}
async function allowed(
  technician: LiveConnection,
  doorstep: LiveConnection,
  ...permissions: Permission[]
): Promise<void> {
  const asking = technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions });
  await agree(doorstep);
  await asking;
  await until('it to be allowed', () =>
    permissions.every((p) => technician.state.standings[technician.participantId]?.[p]?.name === 'allowed'),
  );
}
async function withHolder() {
  const s = await house.sessionUnderWay();
  const doorstep = await house.bareDoorstep({ link: s.link });
  await until('Doorstep', () => s.technician.state.holderId);
  return { ...s, doorstep };
}
const grid = gridFor(128, 64);
/** An update of one display of two tiles, all of one colour. */
function sendUpdate(doorstep: LiveConnection, number: number, colour: number): void {
  const payload = encodeUpdate(
    new Uint32Array(128 * 64).fill(colour),
    grid,
    [0, 1].map((tile) => ({ tile, version: number })),
    (b) => deflateRawSync(b),
  );
  doorstep.sendFrame(
    encodeFrame({
      channel: 'screen',
      kind: frameKinds.screen.update,
      display: 0,
      senderSeat: doorstep.seat,
      receiverSeat: EVERY_VIEWER,
      epoch: 0,
      displayGeneration: 1,
      counter: BigInt(number),
      payload,
    }),
  );
}
function watching(technician: LiveConnection) {
  const picture = new ViewerPicture(inflateInPlainCode);
  let frames = 0;
  technician.on('frame', ({ frame, bytes }) => {
    if (frame.channel !== 'screen') return;
    frames++;
    picture.take(frame.payload, frame.displayGeneration);
    technician.sendFrame(
      encodeFrame({
        ...frame,
        kind: frameKinds.screen.paintedAck,
        senderSeat: technician.seat,
        receiverSeat: 0,
        counter: 0n,
        payload: encodeAck(bytes.byteLength),
      }),
    );
  });
  technician.watch(0, true);
  return { picture, frames: () => frames };
}

describe('the picture', () => {
  it('reaches nobody without the customer’s yes, and nobody after a no', async () => {
    const { technician, customer, doorstep } = await withHolder();
    const { picture, frames } = watching(technician);
    sendUpdate(doorstep, 1, 0x111111);
    await technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'after the update' });
    expect([frames(), doorstep.viewers]).toEqual([0, []]);
    await allowed(technician, doorstep, 'view-screen');
    await until('Doorstep to be told who looks', () => doorstep.viewers.includes(technician.seat));
    sendUpdate(doorstep, 2, 0x222222);
    await until('the picture', () => picture.isComplete);
    await customer.command({
      type: 'withdrawPermission',
      participantId: technician.participantId,
      permission: 'view-screen',
      why: 'enough',
    });
    await until('nobody to look', () => doorstep.viewers.length === 0);
    const before = frames();
    sendUpdate(doorstep, 3, 0x333333);
    await technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'after that' });
    expect(frames()).toBe(before);
  });

  it('is asked for whole when a viewer comes and the relay has nothing, and is there at once when it has', async () => {
    const { technician, doorstep, rest, id } = await withHolder();
    const wanted: number[][] = [];
    doorstep.on('frame', ({ frame }) => {
      if (frame.channel === 'screen' && frame.kind === frameKinds.screen.want) wanted.push(decodeWanted(frame.payload));
    });
    await allowed(technician, doorstep, 'view-screen');
    const { picture } = watching(technician);
    await until('everything to be wanted', () => wanted.some((tiles) => tiles.length === 0));
    sendUpdate(doorstep, 1, 0x445566);
    await until('the picture', () => picture.isComplete);
    const asked = wanted.length;
    technician.watch(0, false);
    technician.watch(0, true);
    await until('it to come again', () => picture.newestUpdate === 1);
    expect((await rest.session(id)).phase).toBe('live');
    expect(wanted.length).toBeGreaterThanOrEqual(asked);
  });

  it('goes on for the colleague through a handover, and ends for the first technician', async () => {
    const { technician: pim, doorstep } = await withHolder();
    await allowed(pim, doorstep, 'view-screen');
    const seenByPim = watching(pim);
    await until('Doorstep to be told', () => doorstep.viewers.length === 1);
    sendUpdate(doorstep, 1, 0x111111);
    await until('Pim to see', () => seenByPim.picture.newestUpdate === 1);
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
    sendUpdate(doorstep, 2, 0x222222);
    await until('Pim to see on', () => seenByPim.picture.newestUpdate === 2);
    expect(seenByRune.frames(), 'nothing passes on by itself').toBe(0);
    const out = new Promise((resolve) => pim.on('failed', (e) => resolve(e.code)));
    await allowed(rune, doorstep, 'view-screen');
    await until('Rune to see what is there', () => seenByRune.picture.isComplete);
    expect(await out).toBe('NOT_PRESENT');
    expect(await failure(rest.answerHandover(offer?.handoverId ?? '', 'accept'))).toBe('HANDOVER_NOT_FOUND');
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
      theirSeat: doorstep.seat,
      channel: 'input',
    });
    const arrived: string[] = [];
    for (const [who, live] of [
      ['doorstep', doorstep],
      ['page', customer],
    ] as const)
      live.on('frame', ({ frame }) => frame.channel === 'input' && arrived.push(who));
    const send = () => technician.sendFrame(channel.seal(encodeSealedJson({ type: 'openLease' })));
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
      theirSeat: customer.seat,
      channel: 'input',
    });
    technician.sendFrame(toPage.seal(encodeSealedJson({ type: 'openLease' })));
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
    await until('the wrong file to be noticed', () => technician.state.files[first.fileId]?.stage === 'failed');
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
