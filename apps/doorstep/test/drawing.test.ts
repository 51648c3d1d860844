import { ledger } from '@porch/words/ledger';
import { markColour, TechnicianDrawing } from '@porch/client';
import { tellToCustomer } from '@porch/core';
import { XConnection } from '@porch/doorstep';
import { askAndAgree, dumpScreen, House, PressCounter, startWorking, until } from '@porch/testkit';
import type { Mark } from '@porch/wire';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/* Marks on a real desktop, looked at by a program that knows nothing of them. */
const [WIDTH, HEIGHT] = [1000, 600];
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

type Place = Mark['points'][number];
const at = (x: number, y: number): Place => ({ x: x / WIDTH, y: y / HEIGHT });
const colourOf = (seat: number): number => parseInt(markColour(seat).slice(1), 16);

async function drawing() {
  const s = await house.sessionUnderWay();
  const d = await house.withDoorstep(s.link, { width: WIDTH, height: HEIGHT });
  const working = await startWorking(s.technician, d.person);
  await askAndAgree(s.technician, d.person, ['draw-on-screen']);
  const pen = new TechnicianDrawing(s.technician, () => working.picture.aim.update);
  const x = await XConnection.open(d.desktop.display, () => undefined);
  const pixel = (px: number, py: number) => dumpScreen(d.desktop.display, { x: px, y: py, width: 1, height: 1 })[0];
  const colour = colourOf(s.technician.seat);
  return { ...s, ...d, ...working, pen, x, pixel, colour };
}
type Drawing = Awaited<ReturnType<typeof drawing>>;
const close = ({ pen, x }: Drawing) => {
  pen.close();
  x.close();
};
/** A window of another program that wants to be above everything. */
function coverWith({ client, root }: XConnection, x: number, y: number, width: number, height: number): number {
  const window = client.AllocID();
  client.CreateWindow(window, root, x, y, width, height, 0, 0, 1, 0, {
    overrideRedirect: 1,
    backgroundPixel: 0x204060,
    eventMask: 4,
  });
  client.MapWindow(window);
  client.RaiseWindow(window);
  return window;
}

describe('what a technician draws', () => {
  it('is on the screen and in the picture, with their name, above windows and under clicks, and is told once', async () => {
    const w = await drawing();
    const { customer, pen, pixel, colour, x } = w;
    const line = pen.begin('pen', at(100, 300), 0);
    line.add([at(200, 300), at(300, 300)]);
    line.end();
    await until('the stroke', () => pixel(250, 300) === colour);
    await until('it in the picture', () => w.pixels()[300 * WIDTH + 250] === colour);
    let over: readonly unknown[] = [1];
    pen.listeners.on('marks', (marks) => (over = marks));
    await until('the copy over the picture to go', () => over.length === 0);

    // A menu or a window that comes later does not hide it; a click on it reaches what lies beneath.
    const window = coverWith(x, 150, 250, 200, 100);
    let clicks = 0;
    x.client.on('event', (event) => {
      if (event.name === 'ButtonPress' && event.wid === window) clicks++;
    });
    await until('the window', () => pixel(250, 280) === 0x204060);
    await until('the stroke above it', () => pixel(250, 300) === colour);
    // On a picture that is just then older than two seconds nothing is pressed: whoever meant it presses again.
    let pressedAtMs = -Infinity;
    await until('the click beneath', () => {
      if (performance.now() - pressedAtMs > 2_000) {
        pressedAtMs = performance.now();
        for (const isDown of [true, false]) w.act({ act: 'button', x: 250, y: 300, button: 'left', isDown });
      }
      return clicks > 0;
    });

    for (const kind of ['arrow', 'box', 'marker'] as const) pen.mark({ kind, points: [at(500, 200), at(700, 400)] }, 0);
    pen.mark({ kind: 'text', points: [at(600, 450)], text: 'Press here' }, 0);
    await until('the box', () => pixel(700, 300) === colour);
    await until('the words on their ground', () => pixel(603, 453) === colour);
    const name = dumpScreen(w.desktop.display, { x: 600, y: 460, width: 200, height: 40 });
    expect(name.filter((word) => word === 0xffffff).length, 'the name in white').toBeGreaterThan(20);

    pen.unmark('last');
    await until('the words to be gone', () => pixel(603, 453) !== colour);
    pen.unmark('all');
    await until('all to be gone', () => !dumpScreen(w.desktop.display).includes(colour));
    const told = () =>
      tellToCustomer(customer.entries, ledger.en).filter(({ sentence }) => sentence.includes('drew on your screen'));
    await until('the customer to have been told', () => told().length === 1);
    close(w);
  });

  it('stays beneath the bar, is away while a question is asked, and comes back when another program destroys it', async () => {
    const w = await drawing();
    const { technician, person, pen, pixel, colour, x } = w;
    const bar = await until('the bar', () => person.bar());
    pen.mark({ kind: 'marker', points: [at(10, bar.stop.y), at(990, bar.stop.y)] }, 0);
    pen.mark({ kind: 'pen', points: [at(100, 300), at(300, 300)] }, 0);
    await until('the line', () => pixel(200, 300) === colour);
    const onBar = dumpScreen(w.desktop.display, { x: bar.draw.x - 300, y: bar.stop.y - 12, width: 500, height: 24 });
    expect(onBar.includes(colour)).toBe(false);

    await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['give-files'] });
    await until('the question', () => person.question());
    await until('nothing beside it', () => !dumpScreen(w.desktop.display).includes(colour));
    await person.answer(false, 1_100);
    await until('the line again', () => pixel(200, 300) === colour);

    const { children } = await x.ask<{ children: number[] }>((cb) => x.client.QueryTree(x.root, cb));
    const bars = await Promise.all(
      children.map(async (child) => ({
        child,
        name: (
          await x
            .ask<{ data: Buffer }>((cb) => x.client.GetProperty(0, child, 39, 0, 0, 64, cb))
            .catch(() => ({
              data: Buffer.from('gone'),
            }))
        ).data.toString(),
      })),
    );
    const ofDoorstep = bars.find(({ name }) => name === 'Zesty Porch')?.child ?? 0;
    const mask = x.client.display.resource_mask;
    const ink = bars.filter(({ child, name }) => name === '' && ((child ^ ofDoorstep) & ~mask) === 0);
    expect(ink.length).toBeGreaterThan(1);
    for (const { child } of ink) x.client.DestroyWindow(child);
    await until('the line once more', () => pixel(200, 300) === colour);
    close(w);
  });

  it.each<[string, (w: Drawing) => Promise<unknown>]>([
    [
      'it is taken back',
      ({ customer, technician: { participantId } }) =>
        customer.command({ type: 'withdrawPermission', participantId, permission: 'draw-on-screen', why: 'enough' }),
    ],
    [
      'a private moment begins',
      ({ customer }) => customer.command({ type: 'setPrivate', isOn: true, fact: undefined }),
    ],
    ['Stop is pressed', ({ person }) => person.pressStop()],
    ['Doorstep is killed', ({ doorstep }) => Promise.resolve(doorstep.kill('SIGKILL'))],
  ])('is gone when %s, and nothing more is drawn', async (_what, end) => {
    const w = await drawing();
    const { pen, colour, desktop } = w;
    pen.mark({ kind: 'box', points: [at(100, 200), at(300, 400)] }, 0);
    await until('the box', () => dumpScreen(desktop.display).includes(colour));
    await end(w);
    await until('nothing of it', () => !dumpScreen(desktop.display).includes(colour));
    pen.mark({ kind: 'box', points: [at(100, 200), at(300, 400)] }, 0);
    await w.technician
      .command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'Done.' })
      .catch(() => undefined);
    expect(dumpScreen(desktop.display).includes(colour)).toBe(false);
    close(w);
  });

  it('may be ten thousand points, while input goes on', async () => {
    const w = await drawing();
    const { pen, pixel, colour } = w;
    const counter = await PressCounter.at(w.desktop.display);
    const line = pen.begin('pen', at(10, 100), 0);
    const points = Array.from({ length: 10_000 }, (_, i) => at(10 + (i % 980), 100 + ((i * 7) % 440)));
    line.add(points);
    line.end();
    await counter.press(w.lease);
    pen.unmark('all');
    pen.mark({ kind: 'pen', points: [at(400, 300), at(500, 300)] }, 0);
    await until('what was drawn after it', () => pixel(450, 300) === colour && pixel(50, 300) !== colour);
    counter.close();
    close(w);
  });
});

describe('what the customer draws', () => {
  it('begins at the bar, is theirs alone, is seen by the technician, and ends where it began', async () => {
    const w = await drawing();
    const { technician, person, pixel } = w;
    const theirs = colourOf(technician.state.participants[technician.state.holderId ?? '']?.seat ?? 0);
    const bar = await until('the bar', () => person.bar());
    await person.click(bar.draw.x, bar.draw.y);
    const line = Array.from({ length: 20 }, (_, i) => ({ x: 200 + 10 * i, y: 350 }));
    await until('a stroke', async () => {
      await person.drag(line);
      return pixel(300, 350) === theirs;
    });
    await until('it in the picture', () => w.pixels()[350 * WIDTH + 300] === theirs);
    await until('the ledger to say so', () =>
      technician.entries.some(
        ({ event }) => event.type === 'drawing/drawn' && event.participantId === technician.state.holderId,
      ),
    );
    // Hands of the technician draw nothing in their name.
    for (const [y, isDown] of [
      [450, true],
      [450, false],
    ] as const)
      w.act({ act: 'button', x: 500, y, button: 'left', isDown });
    w.act({ act: 'move', x: 600, y: 450 });
    await person.drag(line.map(({ x }) => ({ x, y: 500 })));
    await until('their second stroke', () => pixel(300, 500) === theirs);
    expect(pixel(500, 450)).not.toBe(theirs);
    // Taken back, it stays: it is their own screen. Nobody looking takes it along.
    await person.click(bar.drawn.x, bar.drawn.y);
    await until('their clicks to be clicks again', async () => {
      await person.click(700, 300);
      return pixel(300, 350) === theirs;
    });
    await technician.command({
      type: 'withdrawPermission',
      participantId: technician.participantId,
      permission: 'view-screen',
      why: 'given back',
      fact: undefined,
    });
    await until('nothing of it once nobody looks', () => !dumpScreen(w.desktop.display).includes(theirs));
    close(w);
  });
});
