import { ledger } from '@porch/words/ledger';
import { ScreenshotRefused, TechnicianScreenshots, type TakenScreenshot } from '@porch/client';
import { tellToCustomer } from '@porch/core';
import { COVER_COLOUR } from '@porch/host';
import { askAndAgree, dumpScreen, failure, House, lookAt, until, hideProgramAndAgree } from '@porch/testkit';
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { inflateRawSync } from 'node:zlib';
import { PNG } from 'pngjs';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* Screenshots on a real desktop: what is on them, where they go, and who is told. */
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

const wordsOf = ({ width, height, packed }: TakenScreenshot): Uint32Array => {
  const rgb = inflateRawSync(packed, { maxOutputLength: width * height * 3 });
  return Uint32Array.from({ length: width * height }, (_, i) => rgb.readUIntBE(i * 3, 3));
};
const pngOf = (shot: TakenScreenshot): Buffer => {
  const png = new PNG({ width: shot.width, height: shot.height });
  wordsOf(shot).forEach((word, i) => png.data.writeUInt32BE(((word << 8) | 255) >>> 0, i * 4));
  return PNG.sync.write(png);
};
const hashOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

async function seeing(programs: 'none' | 'editor' = 'none') {
  const under = await house.sessionUnderWay();
  const { desktop, person } = await house.withDoorstep(under.link, { programs });
  await until('Doorstep', () => under.technician.state.holderId);
  return { ...under, desktop, person, shots: new TechnicianScreenshots(under.technician) };
}

it('is of what is shown, pixel by pixel, goes to whom the technician says, and each time the customer is told', async () => {
  const { technician, customer, rest, id, desktop, person, shots } = await seeing();
  await askAndAgree(technician, person, ['view-screen']);
  const seen = lookAt(technician);
  await until('the picture', seen.isFresh);
  await askAndAgree(technician, person, ['take-screenshot']);
  await until('the banner to rest', seen.isFresh);
  const shot = await shots.take(0);
  expect(wordsOf(shot)).toEqual(dumpScreen(desktop.display));
  await until('the ledger to say so', () => technician.state.slices.screenshot[shot.id]);
  const png = pngOf(shot);

  await shots.tellKept(shot.id, png);
  await shots.give(shot.id, png);
  const [name = ''] = readdirSync(join(desktop.home, 'Downloads')).filter((file) => file.endsWith('.png'));
  expect(readFileSync(join(desktop.home, 'Downloads', name))).toEqual(png);
  const [row] = await rest.keepScreenshot(id, { screenshotId: shot.id, png: png.toString('base64') });
  expect(row).toMatchObject({ screenshotId: shot.id, sizeBytes: png.length, sha256: hashOf(png) });
  await rest.keepScreenshot(id, { screenshotId: shot.id, png: png.toString('base64') });
  const places = () => technician.state.slices.screenshot[shot.id]?.keptAt ?? [];
  await until('all three to be told, each once', () => places().length === 3);
  expect([...places()].sort()).toEqual(['customer', 'session', 'technician']);
  await until('the customer to have it all', () => customer.entries.length === technician.entries.length);
  expect(
    tellToCustomer(customer.entries, ledger.en)
      .map(({ sentence }) => sentence)
      .filter((sentence) => /pictures? of your screen/.test(sentence)),
  ).toEqual([
    'Pim Aldersey asked to keep pictures of your screen',
    'You allowed Pim Aldersey to keep pictures of your screen',
    'Pim Aldersey took a picture of your screen',
    'Pim Aldersey kept a picture of your screen',
    'Pim Aldersey gave you a picture of your screen',
    'Pim Aldersey put a picture of your screen into the records of this session',
  ]);

  const fetched = await fetch(`${house.url}/api/sessions/${id}/screenshots/${shot.id}`, {
    headers: { authorization: `Bearer ${rest.token ?? ''}` },
  });
  expect([fetched.status, fetched.headers.get('content-type')]).toEqual([200, 'image/png']);
  expect(Buffer.from(await fetched.arrayBuffer())).toEqual(png);
  const [stored] = await house.query<{ sealed: Buffer }>('SELECT "sealed" FROM "screenshot" WHERE "id" = $1', [
    shot.id,
  ]);
  expect(stored?.sealed.includes(png.subarray(0, 64)), 'nobody reads it in the records').toBe(false);
  shots.close();
});

it('cannot be put anywhere by whom it does not belong to, as what it is not, or when it was never taken', async () => {
  const { technician, rest, id, person, shots } = await seeing();
  await askAndAgree(technician, person, ['view-screen', 'take-screenshot']);
  const seen = lookAt(technician);
  await until('the picture', seen.isFresh);
  const shot = await shots.take(0);
  await until('the ledger to say so', () => technician.state.slices.screenshot[shot.id]);
  const png = pngOf(shot).toString('base64');
  const other = crypto.randomUUID();
  const rune = await house.signedIn('Rune Takahashi');
  const keep = (who: typeof rest, screenshotId: string, what: string) =>
    who.keepScreenshot(id, { screenshotId, png: what });
  expect(await failure(keep(rune, shot.id, png))).toBe('SESSION_NOT_FOUND');
  expect(await failure(rune.screenshots(id))).toBe('SESSION_NOT_FOUND');
  expect(await failure(keep(rest, other, png))).toBe('NOT_GRANTED');
  expect(await failure(keep(rest, shot.id, Buffer.from('<svg onload=alert(1)>').toString('base64')))).toBe(
    'INVALID_REQUEST',
  );
  expect(await failure(keep(rest, shot.id, '***'))).toBe('INVALID_REQUEST');
  await expect(shots.give(other, pngOf(shot))).rejects.toThrow(/was not taken here/);
  await expect(shots.give(shot.id, Buffer.from('MZ, no picture'))).rejects.toThrow(/no such picture/);
  await technician.command({
    type: 'withdrawPermission',
    participantId: technician.participantId,
    permission: 'take-screenshot',
    why: 'test',
    fact: undefined,
  });
  // What was taken is theirs; nothing more goes through the customer's computer.
  const given = shots.give(shot.id, pngOf(shot)).then(
    () => 'given',
    () => 'not given',
  );
  shots.close();
  expect(await given).toBe('not given');
  expect(await rest.screenshots(id)).toEqual([]);
});

it('shows of a hidden window nothing but the patch in its place, and nothing at all in a private moment', async () => {
  const { technician, person, shots } = await seeing('editor');
  await technician.command({
    type: 'askPermissions',
    askId: crypto.randomUUID(),
    permissions: ['view-screen', 'take-screenshot'],
  });
  await hideProgramAndAgree(person);
  const seen = lookAt(technician);
  await until('the picture', seen.isFresh);
  const words = wordsOf(await shots.take(0));
  expect(words.filter((word) => word === COVER_COLOUR).length).toBeGreaterThan(10_000);
  const bar = await until('the bar', () => person.bar());
  await person.click(bar.private.x, bar.private.y);
  await until('the moment', () => technician.state.slices.presence.privateAt.length === 1);
  const refusal = await shots.take(0).then(
    () => 'taken',
    (error: unknown) => (error instanceof ScreenshotRefused ? error.message : String(error)),
  );
  expect(refusal).toBe('they are doing something private');
  shots.close();
});
