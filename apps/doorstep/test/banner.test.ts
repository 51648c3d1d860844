import { PersonAtDesk, startDesktop } from '@porch/demo';
import { XConnection, loadExtensions } from '@porch/doorstep';
import { House, startWorking, until } from '@porch/testkit';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { Banner, layoutBanner } from '../src/x11/banner/banner.ts';

// What is written on it is drawn by a module that only a bundle can load; here it is about windows and presses.
vi.mock('../src/x11/server/text-picture.ts', () => ({
  renderSvg: () => Promise.resolve({ width: 1, height: 1, bgrx: Buffer.alloc(4) }),
}));

let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

it('has Stop, Hide and the private moment in sight and within reach of a hand on the narrowest screen', async () => {
  const [width, height] = [640, 480];
  const { display } = await startDesktop(house.processes, {
    name: 'narrow',
    home: join(house.folder, 'home-narrow'),
    width,
    height,
    programs: 'none',
  });
  const x = await XConnection.open(display, () => undefined);
  const extensions = await loadExtensions(x);
  const pressed: string[] = [];
  const banner = new Banner(x, extensions, {
    onStop: () => pressed.push('stop'),
    onHide: () => pressed.push('hide'),
    onPrivate: () => pressed.push('private'),
    onMute: () => pressed.push('mute'),
    onFiles: () => pressed.push('files'),
    onDraw: () => pressed.push('draw'),
    onTool: (tool) => pressed.push(tool),
    onUndo: () => pressed.push('undo'),
    onClear: () => pressed.push('clear'),
  });
  await banner.show({
    who: 'Pim Aldersey (not checked yet), and Rune Takahashi beside him',
    what: 'see your screen, use your mouse and keyboard, give you files',
    stop: 'Stop',
    hide: 'Take back …',
    private: 'Private moment',
    control: 'Ctrl',
    draw: 'Draw',
  });
  const layout = layoutBanner(width);
  const left = (width - layout.width) / 2;
  const person = await PersonAtDesk.at(display);
  const programs = await XConnection.open(display, () => undefined);
  const { xtest } = await loadExtensions(programs);
  /** As any program can. */
  const pressByProgram = async (atX: number, y: number) => {
    xtest.FakeInput(6, 0, 0, programs.root, atX, y);
    for (const type of [4, 5]) xtest.FakeInput(type, 1, 0, 0, 0, 0);
    await programs.flush();
  };
  for (const name of ['draw', 'private', 'hide', 'stop'] as const) {
    const { x: boxX, y, width: boxWidth, height: boxHeight } = layout[name] ?? layout.stop;
    expect(left + boxX, `${name} begins on the screen`).toBeGreaterThan(0);
    expect(left + boxX + boxWidth, `${name} ends on the screen`).toBeLessThanOrEqual(width);
    const at = [left + boxX + boxWidth - 4, 4 + y + boxHeight / 2] as const;
    const before = pressed.length;
    await pressByProgram(...at);
    // Anybody may stop it all; the rest is the person's.
    if (name === 'stop') await until('Stop was pressed', () => pressed.at(-1) === name);
    await person.click(...at);
    await until(`${name} was pressed`, () => pressed.length === before + (name === 'stop' ? 2 : 1));
    expect(pressed.at(-1)).toBe(name);
  }
  expect(pressed).toEqual(['draw', 'private', 'hide', 'stop', 'stop']);
  banner.hide();
  x.close();
});

it('becomes smaller and stands aside, still says what it said with Stop at hand, and is never away', async () => {
  const { link, technician } = await house.sessionUnderWay();
  const { person } = await house.withDoorstep(link, { programs: 'none' });
  await startWorking(technician, person);
  const whole = await until('the bar', () => person.bar());
  await person.click(whole.less.x, whole.less.y);
  const small = await until('it to be smaller', async () => {
    const bar = await person.bar();
    return bar && bar.width < whole.width && bar;
  });
  expect(small.stop.x, 'aside').toBeGreaterThan(whole.stop.x);
  await person.click(small.more.x, small.more.y);
  await until('it to be whole again', async () => (await person.bar())?.width === whole.width);
  await person.click(whole.less.x, whole.less.y);
  await until('it to be smaller again', async () => (await person.bar())?.width === small.width);
  await person.pressStop();
  await until('the end', () => technician.state.phase.name !== 'live');
});
