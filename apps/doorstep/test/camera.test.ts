import { CameraRefused, TechnicianCamera, type CameraPicture } from '@porch/client';
import { tellToCustomer } from '@porch/core';
import { endProcess } from '@porch/demo';
import { PLACE_IT_WRITES } from '@porch/stand-ins';
import { askAndAgree, desktopWithCamera, FrameTap, House, until } from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import { execFileSync } from 'node:child_process';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* A whole Doorstep with a stand-in camera: its pictures are decoded by another program, and what leaves is counted. */
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

/** How bright a picture is, 0 to 255. */
const brightnessOf = async ({ jpeg }: CameraPicture): Promise<number> => {
  const { channels } = await sharp(jpeg).stats();
  return channels.reduce((sum, { mean }) => sum + mean, 0) / channels.length;
};

async function withCamera() {
  const s = await house.sessionUnderWay();
  const { desktop, camera: device } = await desktopWithCamera(house, 'with a camera');
  const tap = await FrameTap.open(house.url);
  const d = await house.withDoorstep(s.link, { desktop, over: tap.url });
  await until('Doorstep', () => s.technician.state.holderId);
  const seen: CameraPicture[] = [];
  const camera = new TechnicianCamera(s.technician, (picture) => void seen.push(picture));
  const told = () => tellToCustomer(s.customer.entries, ledger.en).map(({ sentence }) => sentence);
  const cannot = () => s.technician.state.participants[s.technician.state.holderId ?? '']?.cannot['see-camera'];
  const agree = () => askAndAgree(s.technician, d.person, ['see-camera']);
  /** Whether something reads the device now. */
  const isRead = () => execFileSync('ps', ['-eo', 'args']).toString().includes(`--device ${device.devices}`);
  return { ...s, ...d, device, tap, seen, camera, told, cannot, agree, isRead };
}

it('shows what the camera sees once it is allowed and looked at, larger as the line allows, and nobody else reads it', async () => {
  const w = await withCamera();
  w.camera.setOn(true);
  const refused = w.camera.take().catch((error: unknown) => error);
  await w.agree();
  await until('pictures', () => w.seen.length > 5);
  expect(w.camera.now).toMatchObject({ is: 'open', hasLight: true, isLightOn: false });
  // Decoded by somebody else, though the camera leaves its tables out; nothing of where it was is in it.
  const picture = w.seen.at(-1) as CameraPicture;
  expect(await sharp(picture.jpeg).metadata()).toMatchObject({ width: picture.width, height: picture.height });
  expect(Buffer.from(picture.jpeg).includes(PLACE_IT_WRITES)).toBe(false);
  await until('larger ones', () => w.seen.at(-1)?.width === 1280);
  // Nobody looks at the screen: the bar is there for this alone, with Stop on it.
  await until('the bar', () => w.person.bar());
  await until('the entry', () => w.told().includes('Pim Aldersey began to see through your camera'));
  // Not looked at is closed, and nothing is sent.
  w.camera.setOn(false);
  await until('nobody to read it', () => !w.isRead());
  const before = w.tap.left('camera');
  w.camera.setOn(true);
  await until('pictures again', () => w.tap.left('camera') > before + 3);
  w.camera.close();
  expect(await refused).toBeInstanceOf(Error);
});

it('takes a picture in full size, with the light on, and tells the customer', async () => {
  const w = await withCamera();
  await w.agree();
  // Without looking first, too.
  const dark = await w.camera.take();
  expect([dark.width, dark.height]).toEqual([1920, 1080]);
  await until('nobody to read it', () => !w.isRead());
  await until('the entry', () => w.told().includes('Pim Aldersey took a picture through your camera, and can keep it'));
  w.camera.setOn(true);
  await until('the camera', () => w.camera.now.is === 'open');
  w.camera.setLight(true);
  await until('the light', () => w.device.isLit && w.camera.now.isLightOn);
  const lit = await w.camera.take();
  expect(await brightnessOf(lit)).toBeGreaterThan((await brightnessOf(dark)) * 1.3);
  expect(Buffer.from(lit.jpeg).includes(PLACE_IT_WRITES)).toBe(false);
  const seen = w.seen.length;
  await until('the moving pictures to go on', () => w.seen.length > seen + 3);
  // The light goes with the camera.
  w.camera.setOn(false);
  await until('the light to be off', () => !w.device.isLit);
  w.camera.close();
});

it('ends with the leave in the midst of it, rests in a private moment, and goes when Doorstep is killed', async () => {
  const w = await withCamera();
  await w.agree();
  w.camera.setOn(true);
  await until('pictures', () => w.seen.length > 2);
  await w.customer.command({ type: 'setPrivate', isOn: true, fact: undefined });
  await until('a rest', () => w.camera.now.is === 'resting' && !w.isRead());
  await expect(w.camera.take()).rejects.toBeInstanceOf(CameraRefused);
  const resting = w.seen.length;
  await w.customer.command({ type: 'setPrivate', isOn: false, fact: undefined });
  await until('it to go on', () => w.seen.length > resting + 2);
  await w.customer.command({
    type: 'withdrawPermission',
    participantId: w.technician.participantId,
    permission: 'see-camera',
    why: 'enough',
    fact: undefined,
  });
  await until('nobody to read it', () => !w.isRead());
  const left = w.tap.left('camera');
  const refused = w.camera.take().catch((error: unknown) => error);
  // Whatever is asked of it is passed on to nobody; what is said in the chat meanwhile is.
  await w.technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'after that' });
  expect(w.tap.left('camera') - left).toBe(0);
  await w.agree();
  const again = w.seen.length;
  await until('it to be seen again', () => w.seen.length > again + 2);
  w.doorstep.kill('SIGKILL');
  await until('the device to be free', () => !w.isRead());
  w.camera.close();
  expect(await refused).toBeInstanceOf(Error);
});

it('says what is missing: unplugged, used by another program, and possible again when it is back', async () => {
  const w = await withCamera();
  expect(w.cannot()).toBeUndefined();
  w.device.unplug();
  await until('the word', () => w.cannot() === 'computer-cannot');
  w.device.plug();
  await until('it to be possible', () => w.cannot() === undefined);
  await w.agree();
  w.device.setBusy(true);
  w.camera.setOn(true);
  await until('no camera', () => w.camera.now.is === 'none');
  await expect(w.camera.take()).rejects.toThrow('the camera gave no picture');
  w.device.setBusy(false);
  // Nobody tries by themselves all the time: looking anew tries again.
  w.camera.setOn(false);
  await until('another try', () => {
    w.camera.setOn(true);
    if (w.camera.now.is === 'none') w.camera.setOn(false);
    return w.camera.now.is === 'open';
  });
  await until('pictures', () => w.seen.length > 2);
  // Pulled out in the midst of it.
  w.device.unplug();
  await until('no camera', () => w.camera.now.is === 'none');
  await until('the word', () => w.cannot() === 'computer-cannot');
  w.camera.close();
  await endProcess(w.doorstep);
});
