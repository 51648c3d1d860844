import { tellToCustomer } from '@porch/core';
import { COVER_COLOUR } from '@porch/host';
import { askAndAgree, dumpScreen, House, lookAt, PaintedDesktop, showsOwn, until } from '@porch/testkit';
import { ledger } from '@porch/words/ledger';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* A technician's screen in Doorstep's own window, on a real desktop: looked at by another program. */
const [RED, BLUE] = [0xd01020, 0x2040c0];
const HEADER_PX = 44;
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

async function withDesktop() {
  const s = await house.sessionUnderWay();
  const d = await house.withDoorstep(s.link);
  await until('Doorstep', () => s.technician.state.holderId);
  const mine = showsOwn(s.technician);
  const painted = new PaintedDesktop(640, 400);
  // Left half one colour, right half another.
  painted.paint((x) => (x < 320 ? RED : BLUE));
  const told = () => tellToCustomer(s.customer.entries, ledger.en).map(({ sentence }) => sentence);
  const { display } = d.desktop;
  const place = () => until('the window', () => d.person.shown());
  /** What another program sees in the window: its colours at a quarter and three quarters of the picture. */
  const colours = async () => {
    const { x, y, width, height } = await place();
    const at = (share: number) =>
      dumpScreen(display, {
        x: x + Math.floor(width * share),
        y: y + HEADER_PX + Math.floor((height - HEADER_PX) / 2),
        width: 1,
        height: 1,
      })[0];
    return [at(0.25), at(0.75)];
  };
  const shows = (...wanted: number[]) =>
    until(
      `the window to show ${wanted.map((c) => c.toString(16)).join()}`,
      async () => JSON.stringify(await colours()) === JSON.stringify(wanted),
    );
  return { ...s, ...d, ...mine, painted, told, place, colours, shows, display };
}

it('is seen in a window of its own once it is allowed, follows what changes, and is never in their picture', async () => {
  const w = await withDesktop();
  await expect(w.show(w.painted)).rejects.toMatchObject({ code: 'NOT_GRANTED' });
  await askAndAgree(w.technician, w.person, ['view-screen']);
  const seen = lookAt(w.technician);
  await until('their picture', seen.isFresh);
  await askAndAgree(w.technician, w.person, ['show-own-screen']);
  await w.show(w.painted);
  await w.shows(RED, BLUE);
  await until('the technician to hear that it is seen', () => w.own.isSeen);
  expect(w.told()).toContain('Pim Aldersey began to show you a window of theirs');
  // In what the technician sees of this desktop there is a plain patch where it lies, and not one pixel of it.
  const { x, y, width, height } = await w.place();
  const stride = seen.picture.viewer.picture.grid?.width ?? 0;
  await until('the patch', () => seen.pixels()[(y + height - 20) * stride + x + width / 2] === COVER_COLOUR);
  expect([...seen.pixels()].filter((pixel) => pixel === RED || pixel === BLUE)).toEqual([]);
  w.painted.paint((px) => (px < 320 ? BLUE : RED));
  await w.shows(BLUE, RED);
  // Another size is another picture.
  w.own.end();
  await until('the window to go', async () => (await w.person.shown()) === undefined);
  const small = new PaintedDesktop(320, 200);
  small.fill(RED);
  await w.show(small);
  await w.shows(RED, RED);
  // What lay beneath is in their picture again.
  w.own.end();
  await until('the window to go', async () => (await w.person.shown()) === undefined);
  await until('no patch any longer', () => !seen.pixels().includes(COVER_COLOUR));
  expect(w.told()).toContain('Pim Aldersey stopped showing you their screen');
  expect(w.troubles).toEqual([]);
  seen.stop();
  w.own.close();
});

/** One whose first picture comes when it is told to. */
class LateDesktop extends PaintedDesktop {
  begin: () => void = () => undefined;
  readonly #begun = new Promise<void>((resolve) => (this.begin = resolve));
  override async watchScreen(...watch: Parameters<PaintedDesktop['watchScreen']>): Promise<() => void> {
    await this.#begun;
    return super.watchScreen(...watch);
  }
}

it('is as large as its picture, however late the first one comes after the window', async () => {
  const w = await withDesktop();
  await askAndAgree(w.technician, w.person, ['show-own-screen']);
  const late = new LateDesktop(320, 200);
  late.fill(RED);
  await w.show(late);
  const before = await w.place();
  late.begin();
  await w.shows(RED, RED);
  expect((await w.place()).width).toBeLessThan(before.width / 2);
  w.own.close();
});

it('goes when the person closes it, when it is taken back, and with the end; each is told', async () => {
  const w = await withDesktop();
  await askAndAgree(w.technician, w.person, ['show-own-screen']);
  await w.show(w.painted);
  await w.shows(RED, BLUE);
  const { close } = await w.place();
  await w.person.click(close.x, close.y);
  await until('the window to go', async () => (await w.person.shown()) === undefined);
  await until('the technician to hear', () => w.own.over === 'closed');
  expect(w.own.what).toBeUndefined();
  await until('the entry', () => w.told().includes('You closed what was shown to you'));
  // Closed is not taken back: it can be shown again.
  await w.show(w.painted);
  await w.shows(RED, BLUE);
  const { participantId } = w.technician;
  const takenBack = { participantId, permission: 'show-own-screen', why: 'enough' } as const;
  await w.customer.command({ type: 'withdrawPermission', ...takenBack });
  await until('the window to go', async () => (await w.person.shown()) === undefined);
  await until('the technician to hear', () => w.own.over === 'not-allowed');
  await expect(w.show(w.painted)).rejects.toMatchObject({ code: 'NOT_GRANTED' });
  await askAndAgree(w.technician, w.person, ['show-own-screen']);
  await w.show(w.painted);
  await w.shows(RED, BLUE);
  await w.person.pressStop();
  await until('the window to go', async () => (await w.person.shown()) === undefined);
  await until('the end', () => w.technician.state.phase.name === 'ended');
  w.own.close();
});

it('is scaled, seen in full size by a press, moved about by hand, and says when it is old', async () => {
  const w = await withDesktop();
  await askAndAgree(w.technician, w.person, ['show-own-screen']);
  const large = new PaintedDesktop(2_400, 1_600);
  large.paint((x) => (x < 1_200 ? RED : BLUE));
  await w.show(large);
  await w.shows(RED, BLUE);
  const { size } = await w.place();
  await w.person.click(size.x, size.y);
  // The upper left corner, one pixel for one.
  await w.shows(RED, RED);
  const { x, y, width, height } = await w.place();
  const middle = y + HEADER_PX + Math.floor((height - HEADER_PX) / 2);
  // As far as it goes, however often a hand has to pull.
  await until('the other edge', async () => {
    await w.person.drag([
      { x: x + width - 30, y: middle },
      { x: x + width / 2, y: middle },
      { x: x + 30, y: middle },
    ]);
    return JSON.stringify(await w.colours()) === JSON.stringify([BLUE, BLUE]);
  });
  await w.person.click(x + width / 2, middle);
  await w.shows(RED, BLUE);
  // The technician's line is lost: what is seen stays, and says how old it is.
  const before = dumpScreen(w.display, { x, y: y + height - 32, width, height: 32 });
  house.cut(w.technician);
  await until('it to say so, or to be fresh again', async () => {
    const now = dumpScreen(w.display, { x, y: y + height - 32, width, height: 32 });
    return now.some((pixel, i) => pixel !== before[i]) || w.technician.status === 'live';
  });
  await until('the line', () => w.technician.status === 'live');
  large.paint((px) => (px < 1_200 ? BLUE : RED));
  await w.shows(BLUE, RED);
  w.own.close();
});
