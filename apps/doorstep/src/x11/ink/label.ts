import type { Painting } from '../server/painting.ts';
import { escapeXml } from '../server/svg-text.ts';
import { renderSvg, widthOf } from '../server/text-picture.ts';

const PADDING_PX = 8;

/** Words on a ground of somebody's colour: a name beside what they draw, or what they wrote. */
export async function drawLabel(words: string, colour: string, sizePx: number): Promise<Painting> {
  const text = (x: number, y: number) =>
    `<text x="${x}" y="${y}" font-size="${sizePx}" font-weight="bold" fill="#ffffff">${escapeXml(words)}</text>`;
  const svg = (width: number, height: number, inside: string) =>
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" font-family="DejaVu Sans">${inside}</svg>`;
  const width = Math.ceil(await widthOf(svg(10, 10, text(0, sizePx)))) + 2 * PADDING_PX;
  const height = Math.ceil(sizePx * 1.25) + PADDING_PX;
  const baseline = Math.round(height / 2 + sizePx * 0.36);
  return renderSvg(
    svg(width, height, `<rect width="100%" height="100%" fill="${colour}"/>${text(PADDING_PX, baseline)}`),
  );
}
