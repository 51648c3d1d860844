import { expect, it } from 'vitest';
import { cardOn, drawCard, drawStrip } from './panel.ts';

const words = {
  title: 'Pim <works> & waits',
  line: 'Your screen is covered; Pim goes on seeing it, and everything that happens on it meanwhile.',
  atMost: 'It ends by itself in',
  key: 'Esc',
  keyDoes: 'shows your whole screen again at once',
};
const texts = (svg: string) => [...svg.matchAll(/>([^<>]+)</g)].map(([, text]) => text?.trim()).filter(Boolean);

it('says who, how long still and which key, and breaks what is long', () => {
  const size = cardOn({ x: 0, y: 0, width: 1280, height: 800 });
  expect(size).toEqual({ x: 260, y: 210, width: 760, height: 380 });
  const card = texts(drawCard(words, 247_001, size));
  expect(card).toContain('4:08');
  expect(card).toContain('Esc');
  expect(card).toContain('Pim &#60;works&#62; &#38; waits');
  expect(card).toContain('shows your whole screen');
  expect(card).toContain('again at once');
  expect(texts(drawStrip(words, 0))).toContain('0:00');
});

it('lies within the smallest screen', () => {
  expect(cardOn({ x: 1280, y: 0, width: 640, height: 300 })).toEqual({ x: 1280, y: 0, width: 640, height: 300 });
});
