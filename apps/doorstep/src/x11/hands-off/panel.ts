import { clockLeft } from '@porch/client';
import type { RestingWords } from '@porch/host';
import type { Box } from '../server/box.ts';
import { escapeXml, wrapText } from '../server/svg-text.ts';

export const STRIP = { width: 900, height: 64 };
const CARD_CHARACTERS = 50;
const CARD_KEY_CHARACTERS = 26;
const STRIP_KEY_CHARACTERS = 24;
const CARD = { width: 760, height: 380 };

/** In the middle of a monitor, and no larger than it. */
export function cardOn({ x, y, width, height }: Box): Box {
  const [cardWidth, cardHeight] = [Math.min(CARD.width, width), Math.min(CARD.height, height)];
  return {
    x: x + Math.round((width - cardWidth) / 2),
    y: y + Math.round((height - cardHeight) / 2),
    width: cardWidth,
    height: cardHeight,
  };
}

const keycap = (x: number, y: number, width: number, height: number, size: number, key: string) =>
  `<rect x="${x}" y="${y}" width="${width}" height="${height}" rx="10" fill="#faf6ec" stroke="#5a5648" stroke-width="2"/>
   <text x="${x + width / 2}" y="${y + height / 2 + size * 0.36}" text-anchor="middle" font-size="${size}" font-weight="bold" fill="#0f3d44">${escapeXml(key)}</text>`;
/** One beneath the other, around a middle. */
const lines = (texts: readonly string[], at: { x: number; middle: number; size: number }, look: string) =>
  texts
    .map((text, i) => {
      const y = at.middle + at.size * (0.36 + 1.15 * (i - (texts.length - 1) / 2));
      return `<text x="${at.x}" y="${y}" font-size="${at.size}" ${look}>${escapeXml(text)}</text>`;
    })
    .join('');
const svg = ({ width, height }: { width: number; height: number }, view: typeof CARD, inside: string) =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${view.width} ${view.height}" font-family="DejaVu Sans">${inside}</svg>`;

/** On the cover: who works, how long still, and in the largest type the key that ends it. */
export const drawCard = (words: RestingWords, leftMs: number, size: { width: number; height: number }): string =>
  svg(
    size,
    CARD,
    `<rect width="100%" height="100%" fill="#0f3d44"/><circle cx="44" cy="46" r="12" fill="#f2b84b"/>
    <text x="72" y="56" font-size="30" font-weight="bold" fill="#ffffff">${escapeXml(words.title)}</text>
    ${wrapText(words.line, CARD_CHARACTERS)
      .map((line, i) => `<text x="32" y="${112 + i * 32}" font-size="24" fill="#e6efe9">${escapeXml(line)}</text>`)
      .join('')}
    ${keycap(32, 184, 168, 96, 52, words.key)}
    ${lines(wrapText(words.keyDoes, CARD_KEY_CHARACTERS), { x: 224, middle: 232, size: 28 }, 'font-weight="bold" fill="#ffffff"')}
    <text x="32" y="342" font-size="24" fill="#e6efe9">${escapeXml(words.atMost)}
      <tspan font-size="34" font-weight="bold" fill="#ffffff" dx="10">${clockLeft(leftMs)}</tspan></text>`,
  );

/** Beneath the bar, while only mouse and keyboard rest. */
export const drawStrip = (words: RestingWords, leftMs: number): string =>
  svg(
    STRIP,
    STRIP,
    `<rect width="100%" height="100%" fill="#faf6ec" stroke="#0f3d44" stroke-width="4"/>
    <text x="20" y="28" font-size="17" font-weight="bold" fill="#0f3d44">${escapeXml(words.title)}</text>
    <text x="20" y="50" font-size="13" fill="#22302f">${escapeXml(words.atMost)}
      <tspan font-size="17" font-weight="bold" dx="4">${clockLeft(leftMs)}</tspan></text>
    ${keycap(540, 10, 76, 44, 24, words.key)}
    ${lines(wrapText(words.keyDoes, STRIP_KEY_CHARACTERS), { x: 632, middle: 32, size: 17 }, 'font-weight="bold" fill="#0f3d44"')}`,
  );
