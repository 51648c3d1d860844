import { startDesktop } from '@porch/demo';
import { XConnection, loadExtensions } from '@porch/doorstep';
import { TileSource, ViewerPicture } from '@porch/screen';
import { House, codecs, until } from '@porch/testkit';
import { join } from 'node:path';
import { deflateRawSync } from 'node:zlib';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { InkPace } from '../src/x11/server/ink-pace.ts';
import { HiddenWindows } from '../src/x11/hiding/hidden-windows.ts';
import { ScreenWatch } from '../src/x11/screen/screen-watch.ts';

const SECRET = 0xc0ffee;
const SECRET_RGBA = (0xff000000 | (0xee << 16) | (0xff << 8) | 0xc0) >>> 0;
const FRAMES = process.env['PORCH_TEST_LONG'] ? 5_000 : 1_000;
const [WIDTH, HEIGHT] = [800, 600];
const COVER = 0x0a2a2f;
const INPUT_OUTPUT = 1;
const EXPOSURE = 1 << 15;
const SHAPE_BOUNDING = 0;

let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

it.each([
  ['hidden windows', false, false],
  ['hidden windows, beneath a cover', false, true],
  ['what is not of one program', true, false],
  ['what is not of one program, beneath a cover', true, true],
])(
  'never sends one pixel of %s, however they move, overlap, pop up and go, in a thousand frames',
  async (_what, isOne, isCovered) => {
    const { display } = await startDesktop(house.processes, {
      name: 'hidden windows',
      home: join(house.folder, `home-hidden-${String(isOne)}-${String(isCovered)}`),
      width: WIDTH,
      height: HEIGHT,
      programs: 'none',
    });
    const under = await XConnection.open(display, () => undefined);
    const secret = await XConnection.open(display, () => undefined);
    const { shape } = await loadExtensions(secret);
    const make = (x: XConnection, rect: [number, number, number, number], values: Record<string, number>) => {
      const window = x.client.AllocID();
      x.client.CreateWindow(window, x.root, ...rect, 0, 0, INPUT_OUTPUT, 0, { overrideRedirect: 1, ...values });
      return window;
    };
    // A window without a background shows old pixels until its program draws, which takes it a while here.
    const late = make(under, [100, 80, 500, 420], { eventMask: EXPOSURE });
    const gc = under.client.AllocID();
    under.client.CreateGC(gc, late, { foreground: 0x335577 });
    const draw = () => {
      if (!under.isGone)
        (under.client as unknown as { PolyFillRectangle(...args: unknown[]): void }).PolyFillRectangle(
          late,
          gc,
          [0, 0, 500, 420],
        );
    };
    let redraws = 0;
    under.client.on('event', (event) => {
      if (event.name === 'Expose') setTimeout(draw, 60 + (redraws++ % 5) * 30);
    });
    under.client.MapWindow(late);
    // Above the hidden ones at times, and not hidden itself.
    const beside = make(under, [300, 200, 150, 120], { backgroundPixel: 0x884422 });
    under.client.MapWindow(beside);
    await under.flush();

    const plain = make(secret, [120, 100, 140, 110], { backgroundPixel: SECRET });
    const shaped = make(secret, [400, 300, 160, 120], { backgroundPixel: SECRET });
    shape.Rectangles(shape.Op['Set'] ?? 0, SHAPE_BOUNDING, shaped, 0, 0, [
      [0, 0, 60, 120],
      [60, 40, 100, 30],
    ]);
    // One that the window manager puts a frame around.
    const managed = secret.client.AllocID();
    secret.client.CreateWindow(managed, secret.root, 500, 60, 130, 90, 0, 0, INPUT_OUTPUT, 0, {
      backgroundPixel: SECRET,
    });
    for (const window of [plain, shaped, managed]) secret.client.MapWindow(window);
    await secret.flush();

    const doorstep = await XConnection.open(display, () => undefined);
    const extensions = await loadExtensions(doorstep);
    const hidden = new HiddenWindows(doorstep, extensions);
    const name = await secret.atom('WM_NAME');
    const string = await secret.atom('STRING');
    secret.client.ChangeProperty(0, plain, name, string, 8, Buffer.from('Payroll of Marrowick Ferries'));
    under.client.ChangeProperty(0, late, name, string, 8, Buffer.from('Quay printers'));
    await Promise.all([secret.flush(), under.flush()]);
    if (isOne) {
      const one = (await hidden.listPrograms()).find(({ title }) => title === 'Quay printers');
      await hidden.showOnly(one?.program);
    } else expect(await hidden.hideTitled('payroll')).toBe(1);

    const source = new TileSource(WIDTH, HEIGHT, { deflate: (bytes) => deflateRawSync(bytes, { level: 1 }) });
    source.mayLose = false;
    const viewer = new ViewerPicture(codecs.inflate);
    let [frames, leaked, covered] = [0, 0, 0];
    const watch = await ScreenWatch.start({
      x: doorstep,
      extensions,
      hidden,
      watcher: {
        onMonitors: () => undefined,
        onCursorShape: () => undefined,
        onCursorPosition: () => undefined,
        onPixels(pieces) {
          frames++;
          for (const { rect, pixels, covered: areas } of pieces) {
            source.put(rect, pixels);
            for (const each of areas) source.cover(each, 0x6b7b7c);
            covered += areas.length;
          }
          // What is searched is what is sent: every message, as it is decoded.
          for (let unit = source.next(200_000); unit; unit = source.next(200_000)) {
            const { rects } = viewer.take({ ...unit, generation: 1 });
            const { rgba } = viewer;
            const words = new Uint32Array(rgba.buffer, rgba.byteOffset, WIDTH * HEIGHT);
            for (const r of rects)
              for (let y = r.y; y < r.y + r.height; y++)
                if (words.subarray(y * WIDTH + r.x, y * WIDTH + r.x + r.width).includes(SECRET_RGBA)) leaked++;
          }
        },
      },
      mayGrab: () => true,
      pace: new InkPace(),
      leastGapMs: () => 0,
    });
    const cover = make(under, [0, 0, WIDTH, HEIGHT], { backgroundPixel: COVER });
    if (isCovered) {
      await watch.lookBeneath(cover);
      under.client.MapWindow(cover);
      await under.flush();
    }
    // Windows that move all the time are put together several times for each picture.
    const wanted = isCovered || isOne ? FRAMES / 2 : FRAMES;
    let popUp: number | undefined;
    for (let n = 0; frames < wanted; n++) {
      secret.client.MoveWindow(plain, 60 + ((n * 37) % 480), 40 + ((n * 23) % 380));
      secret.client.MoveWindow(shaped, 80 + ((n * 29) % 450), 60 + ((n * 31) % 360));
      if (n % 3 === 0) secret.client.MoveWindow(managed, 40 + ((n * 17) % 500), 30 + ((n * 13) % 400));
      if (n % 5 === 0) under.client.MoveWindow(beside, 60 + ((n * 19) % 500), 50 + ((n * 11) % 380));
      if (n % 7 === 0) (n % 14 ? under : secret).client.RaiseWindow(n % 14 ? beside : plain);
      if (n % 11 === 0) {
        // A pop-up of the same program, made and gone again.
        if (popUp !== undefined) secret.client.DestroyWindow(popUp);
        popUp = make(secret, [50 + ((n * 41) % 600), 50 + ((n * 7) % 450), 90, 70], { backgroundPixel: SECRET });
        secret.client.MapWindow(popUp);
      }
      if (n % 13 === 0) secret.client.UnmapWindow(shaped);
      if (n % 13 === 4) secret.client.MapWindow(shaped);
      if (isCovered) under.client.RaiseWindow(cover);
      await Promise.all([secret.flush(), under.flush()]);
    }
    expect(covered, 'there was something to hide all the time').toBeGreaterThan(wanted);
    expect(leaked).toBe(0);

    // And what is not hidden is still seen once it has drawn itself again.
    secret.close();
    await until('the window beneath to be seen again', () => {
      draw();
      const at = 300 + 250 * WIDTH;
      return viewer.rgba[at * 4] !== 0x6b;
    });
    watch.stop();
    doorstep.close();
    under.close();
  },
  120_000,
);

it('knows where a window lies that moved while nothing was hidden, and covers what a closed one leaves until it is drawn over', async () => {
  const { display } = await startDesktop(house.processes, {
    name: 'hidden again',
    home: join(house.folder, 'home-again'),
    width: WIDTH,
    height: HEIGHT,
    programs: 'none',
  });
  const other = await XConnection.open(display, () => undefined);
  // Beneath it something without a background: what was above it is to be seen until it draws.
  const under = await XConnection.open(display, () => undefined);
  const late = under.client.AllocID();
  under.client.CreateWindow(late, under.root, 280, 80, 200, 160, 0, 0, INPUT_OUTPUT, 0, { overrideRedirect: 1 });
  under.client.MapWindow(late);
  await under.flush();
  const doorstep = await XConnection.open(display, () => undefined);
  const hidden = new HiddenWindows(doorstep, await loadExtensions(doorstep));
  const window = other.client.AllocID();
  const create = { overrideRedirect: 1, backgroundPixel: SECRET };
  other.client.CreateWindow(window, other.root, 100, 100, 80, 60, 0, 0, INPUT_OUTPUT, 0, create);
  other.client.MapWindow(window);
  await other.flush();
  await hidden.hideProgramOf(window);
  const at = (x: number) => ({ x, y: 100, width: 80, height: 60 });
  expect(hidden.rects).toEqual([at(100)]);
  await hidden.setHidden([]);
  other.client.MoveWindow(window, 300, 100);
  await other.flush();
  await doorstep.flush();
  await hidden.hideProgramOf(window);
  expect(hidden.rects).toContainEqual(at(300));
  // Whatever is chosen to be hidden, what is kept out stays out, and is no choice.
  await hidden.setHidden([]);
  const show = await hidden.keepOut(window);
  await hidden.setHidden([]);
  expect(hidden.rects).toContainEqual(at(300));
  expect(await hidden.listPrograms()).toEqual([]);
  other.client.DestroyWindow(window);
  await other.flush();
  await show();
  expect(hidden.rects).toContainEqual(at(300));
  const gc = under.client.AllocID();
  under.client.CreateGC(gc, late, { foreground: 0x335577 });
  (under.client as unknown as { PolyFillRectangle(...args: unknown[]): void }).PolyFillRectangle(
    late,
    gc,
    [0, 0, 200, 160],
  );
  await until('it to be drawn over', () => hidden.rects.length === 0);
  other.close();
  under.close();
  doorstep.close();
});
