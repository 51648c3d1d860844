import { House, KeyReader, startWorking, until } from '@porch/testkit';
import type { InputAct } from '@porch/wire';
import { execFileSync } from 'node:child_process';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* The character that was meant arrives, whatever keyboard the customer has: heard by a program that reads keys as all do. */
let house: House;
let w: Awaited<ReturnType<typeof working>>;
beforeAll(async () => {
  house = await House.open();
  w = await working();
});
afterAll(() => house.close());

async function working() {
  const s = await house.sessionUnderWay();
  const d = await house.withDoorstep(s.link, { programs: 'none' });
  const seen = await startWorking(s.technician, d.person);
  const reader = new KeyReader(d.desktop.display);
  const layout = (...args: string[]) =>
    execFileSync('setxkbmap', args, { env: { ...process.env, DISPLAY: d.desktop.display } });
  // It has the keyboard once it hears anything.
  await until('the keyboard', () => {
    seen.act({ act: 'move', x: 640, y: 400 }, ...tap('x'));
    return reader.heard.includes('x');
  });
  return { ...s, ...d, ...seen, reader, layout };
}
/** Keycodes of every keyboard with 105 keys. */
const CAPS_LOCK = 66;
const LETTER_A = 38;
const MENU = 135;
const tap = (key: string): InputAct[] => [true, false].map((isDown) => ({ act: 'key', key, isDown }));

/** The person presses a key of theirs; their hand comes first, for a moment. */
async function theirs(keycode: number): Promise<void> {
  await w.person.tapKey(keycode);
  await until('their hand', () => w.lease.state.name === 'paused');
  await until('it to rest', () => w.lease.state.name === 'open');
}
/** Says that all of it has come. */
const END = '␄';
/** Types each as a key, and hands back what came. */
async function heardOf(text: string, before: InputAct[] = [], after: InputAct[] = []): Promise<string> {
  const whole = async (...acts: InputAct[]) => {
    w.reader.heard = '';
    w.act(...acts, { act: 'text', text: END });
    await until('all of it', () => w.reader.heard.endsWith(END));
    return w.reader.heard.slice(0, -END.length);
  };
  // Whatever was on its way before.
  await whole();
  return whole(...before, ...[...text].flatMap(tap), ...after);
}

const LATIN = 'The quick brown fox, 1986-2026: (50%) <a@b.example> "x" ~/§{[|]}\\ #€';
const layouts: [layout: string, own: string][] = [
  ['us', ''],
  ['gb', '£¬'],
  ['no', 'æøåÆØÅ'],
  ['de', 'äöüßÄÖÜ€'],
  ['fr', 'éèçàù²'],
  ['es', 'ñÑ¿¡ç'],
  ['pl', 'ąćęłńóśźżĄŁ'],
  ['cz', 'ěščřžýáíéů'],
  ['tr', 'ğşıİçöüĞŞ'],
  ['ru', 'Привет, съешь ещё №'],
  ['gr', 'καλημέρα ΩΣς'],
  ['ch', 'öéäàüè§'],
];

it.each(layouts)('of a keyboard with the layout %s', async (layout, own) => {
  w.layout(layout);
  for (const text of [LATIN, own]) expect(await heardOf(text)).toBe(text);
  const shift = (isDown: boolean): InputAct => ({ act: 'key', key: 'Shift', isDown });
  expect(await heardOf('aB1!@ø', [shift(true)], [shift(false)]), 'while Shift is held for another layout').toBe(
    'aB1!@ø',
  );
  const third = (isDown: boolean): InputAct => ({ act: 'key', key: 'AltGraph', isDown });
  expect(await heardOf('a@€#e', [third(true)], [third(false)]), 'and AltGr').toBe('a@€#e');
});

it.each([
  ['us,ru', 'aф'],
  ['ru,us', 'фa'],
  ['us,gr,de', 'aαa'],
])('of several layouts, whichever is chosen: %s', async (all, letters) => {
  w.layout(all, '-option', '', '-option', 'grp:menu_toggle');
  await heardOf('');
  for (const letter of letters) {
    w.reader.heard = '';
    await theirs(LETTER_A);
    expect(w.reader.heard, 'the group that is chosen').toBe(letter);
    expect(await heardOf('Ja, да! ναι #@'), letter).toBe('Ja, да! ναι #@');
    await theirs(MENU);
  }
  w.layout('us', '-option', '');
});

it('where the person has locked their letters to be large, and lets them stay so', async () => {
  w.layout('us', '-option', '');
  await theirs(CAPS_LOCK);
  const text = 'Ålesund, small and LARGE 12';
  expect(await heardOf(text)).toBe(text);
  w.reader.heard = '';
  await theirs(LETTER_A);
  expect(w.reader.heard, 'theirs are large still').toBe('A');
  await theirs(CAPS_LOCK);
});

it('with shortcuts as the keys they are', async () => {
  for (const layout of ['us', 'de', 'fr', 'ru']) {
    w.layout(layout);
    w.reader.keys = [];
    const control = (isDown: boolean): InputAct => ({ act: 'key', key: 'Control', isDown });
    w.act(control(true), ...tap('c'), control(false));
    await until('the shortcut', () => w.reader.keys.includes('c'));
    expect(w.reader.keys, layout).not.toContain('Shift_L');
  }
  w.layout('us');
});
