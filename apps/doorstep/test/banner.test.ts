import { PersonAtDesk, startDesktop } from '@porch/demo';
import { XConnection, loadExtensions } from '@porch/doorstep';
import { House, until } from '@porch/testkit';
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
  const { shape } = await loadExtensions(x);
  const pressed: string[] = [];
  const banner = new Banner(x, shape, {
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
  for (const name of ['draw', 'private', 'hide', 'stop'] as const) {
    const { x: boxX, y, width: boxWidth, height: boxHeight } = layout[name] ?? layout.stop;
    expect(left + boxX, `${name} begins on the screen`).toBeGreaterThan(0);
    expect(left + boxX + boxWidth, `${name} ends on the screen`).toBeLessThanOrEqual(width);
    await person.click(left + boxX + boxWidth - 4, 4 + y + boxHeight / 2);
    await until(`${name} was pressed`, () => pressed.at(-1) === name);
  }
  expect(pressed).toEqual(['draw', 'private', 'hide', 'stop']);
  banner.hide();
  x.close();
});
