import { startDesktop, type XDesktop } from '@porch/demo';
import { markColour, TechnicianDrawing } from '@porch/client';
import { loadExtensions, XConnection } from '@porch/doorstep';
import { ALL_MONITORS, THUMBNAIL_FROM } from '@porch/wire';
import { askAndAgree, dumpScreen, House, lookAt, samePixels, until } from '@porch/testkit';
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

/** Requests of RandR 1.5 that the client library lacks. */
const [SET_MONITOR, DELETE_MONITOR] = [43, 44];
const [WIDTH, HEIGHT] = [1200, 600];
const left = { x: 0, y: 0, width: 700, height: 600 };
const right = { x: 700, y: 0, width: 500, height: 600 };

let house: House;
let desktop: XDesktop;
let x: XConnection;
beforeAll(async () => {
  house = await House.open();
  desktop = await startDesktop(house.processes, {
    name: 'two monitors',
    home: join(house.folder, 'home-monitors'),
    width: WIDTH,
    height: HEIGHT,
    programs: 'none',
  });
  x = await XConnection.open(desktop.display, () => undefined);
});
afterAll(async () => {
  x.close();
  await house.close();
});

async function setMonitor(name: string, at: { x: number; y: number; width: number; height: number }): Promise<void> {
  const { randr } = await loadExtensions(x);
  const atom = await x.atom(name);
  const request = Buffer.alloc(32);
  request[0] = randr.majorOpcode;
  request[1] = SET_MONITOR;
  request.writeUInt16LE(8, 2);
  request.writeUInt32LE(x.root, 4);
  request.writeUInt32LE(atom, 8);
  request.writeInt16LE(at.x, 16);
  request.writeInt16LE(at.y, 18);
  request.writeUInt16LE(at.width, 20);
  request.writeUInt16LE(at.height, 22);
  request.writeUInt32LE(100, 24);
  request.writeUInt32LE(100, 28);
  x.client.seq_num++;
  x.client.pack_stream.put(request);
  x.client.pack_stream.submit();
  await x.flush();
}
async function deleteMonitor(name: string): Promise<void> {
  const { randr } = await loadExtensions(x);
  const request = Buffer.alloc(12);
  request[0] = randr.majorOpcode;
  request[1] = DELETE_MONITOR;
  request.writeUInt16LE(3, 2);
  request.writeUInt32LE(x.root, 4);
  request.writeUInt32LE(await x.atom(name), 8);
  x.client.seq_num++;
  x.client.pack_stream.put(request);
  x.client.pack_stream.submit();
  await x.flush();
}
it('shows one monitor, the other, or all, pixel for pixel, and follows when one comes, changes, turns or goes', async () => {
  await setMonitor('HARBOUR-LEFT', left);
  await setMonitor('HARBOUR-RIGHT', right);
  const s = await house.sessionUnderWay();
  const { person } = await house.withDoorstep(s.link, { desktop });
  await until('Doorstep', () => s.technician.state.holderId);
  await askAndAgree(s.technician, person, ['view-screen', 'control-input']);
  execFileSync('xsetroot', ['-display', desktop.display, '-mod', '16', '16', '-fg', '#8a5a20', '-bg', '#f4efe2']);
  const same = (seen: ReturnType<typeof lookAt>, part: typeof left) => () => {
    return samePixels(seen.pixels(), dumpScreen(desktop.display, part));
  };
  // Xvfb has a monitor of its own beside ours; they are ordered from left to right.
  const first = lookAt(s.technician, 0);
  await until('the left monitor', same(first, left));
  const numberOf = (name: string) => first.look.displays.find((row) => row.name === name)?.display ?? -1;
  expect([numberOf('HARBOUR-LEFT'), first.look.displays.length]).toEqual([0, 3]);
  // The pointer maps to where the monitor lies on the desktop.
  first.lease.open();
  await until('a lease', () => first.lease.state.name === 'open');
  first.lease.act({ act: 'move', x: 30, y: 40 });
  await until('the pointer', async () => (await person.pointer()).x === 30);

  const { LocalPicture } = await import('@porch/client');
  const { codecs } = await import('@porch/testkit');
  const show = (display: number) => {
    const picture = new LocalPicture(s.technician, display, codecs);
    const stop = first.look.open(picture);
    const pixels = () => {
      const { rgba } = picture.viewer.picture;
      return new Uint32Array(rgba.buffer, rgba.byteOffset, rgba.length / 4).map(
        (p) => ((p & 255) << 16) | (p & 0xff00) | ((p >> 16) & 255),
      );
    };
    return { ...first, picture, stop, pixels };
  };
  const second = show(numberOf('HARBOUR-RIGHT'));
  await until('the right monitor', same(second, right));
  const all = show(ALL_MONITORS);
  await until('all together', same(all, { x: 0, y: 0, width: WIDTH, height: HEIGHT }));
  const thumbnail = show(THUMBNAIL_FROM);
  await until('a thumbnail of the left', () => thumbnail.picture.viewer.picture.isComplete);
  expect(thumbnail.picture.viewer.picture.grid).toMatchObject({ width: 87, height: 75 });

  const turned = { x: 700, y: 0, width: 400, height: 500 };
  await deleteMonitor('HARBOUR-RIGHT');
  await setMonitor('HARBOUR-RIGHT', turned);
  await until('the turned monitor', same(second, turned));
  await deleteMonitor('HARBOUR-RIGHT');
  await until('one monitor less', () => first.look.displays.length === 2);
  await until('the left is still there', same(first, left));
}, 120_000);

it('hides the wallpaper behind all windows and gives it back, also after a kill', async () => {
  const s = await house.sessionUnderWay();
  const { person, doorstep } = await house.withDoorstep(s.link, { desktop });
  await until('Doorstep', () => s.technician.state.holderId);
  await askAndAgree(s.technician, person, ['view-screen']);
  const seen = lookAt(s.technician);
  await until('the picture', seen.isFresh);
  const corner = { x: 500, y: 500, width: 40, height: 40 };
  const before = dumpScreen(desktop.display, corner);
  expect(new Set(before).size, 'a pattern lies behind').toBeGreaterThan(1);
  seen.look.setBounds({ preference: 'automatic', isGrey: false, mostFramesPerSecond: 60, hidesWallpaper: true });
  await until('one colour', () => new Set(dumpScreen(desktop.display, corner)).size === 1);
  doorstep.kill('SIGKILL');
  await until(
    'their own again',
    () => Buffer.compare(Buffer.from(dumpScreen(desktop.display, corner).buffer), Buffer.from(before.buffer)) === 0,
  );
});

it('takes what was drawn on a monitor along to where that lies now, and away with it', async () => {
  await setMonitor('HARBOUR-LEFT', left);
  await setMonitor('HARBOUR-RIGHT', right);
  const s = await house.sessionUnderWay();
  const { person } = await house.withDoorstep(s.link, { desktop });
  await until('Doorstep', () => s.technician.state.holderId);
  await askAndAgree(s.technician, person, ['view-screen', 'draw-on-screen']);
  const seen = lookAt(s.technician, 0);
  await until('the picture', seen.isFresh);
  const rows = () => seen.look.displays;
  await until('both', () => rows().some(({ name }) => name === 'HARBOUR-RIGHT'));
  const drawnOn = rows().find(({ name }) => name === 'HARBOUR-RIGHT')?.display ?? 0;
  const pen = new TechnicianDrawing(s.technician, () => 0);
  const colour = parseInt(markColour(s.technician.seat).slice(1), 16);
  const isAt = (px: number, py: number) =>
    dumpScreen(desktop.display, { x: px, y: py, width: 1, height: 1 })[0] === colour;
  const middle = [
    { x: 0.4, y: 0.5 },
    { x: 0.6, y: 0.5 },
  ];
  pen.mark({ kind: 'pen', points: middle }, drawnOn);
  await until('it in the middle of the right one', () => isAt(950, 300));
  await deleteMonitor('HARBOUR-RIGHT');
  await setMonitor('HARBOUR-RIGHT', { x: 900, y: 0, width: 300, height: 400 });
  await until('it where that lies now', () => isAt(1050, 200) && !isAt(950, 300));
  await deleteMonitor('HARBOUR-RIGHT');
  await until('nothing of it', () => !dumpScreen(desktop.display).includes(colour));
  pen.close();
  seen.stop();
});
