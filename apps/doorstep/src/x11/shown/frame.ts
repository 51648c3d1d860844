import type { Box } from '../server/box.ts';
import { escapeXml } from '../server/svg-text.ts';

export const HEADER_PX = 44;
export const NOTE_PX = 32;
const BUTTON_HEIGHT = 32;
const [CLOSE_WIDTH, SIZE_WIDTH, GAP] = [104, 128, 8];

/** What can be pressed above the picture. */
export interface HeaderLayout {
  readonly width: number;
  readonly close: Box;
  readonly size: Box;
}

export function layoutHeader(width: number): HeaderLayout {
  const y = (HEADER_PX - BUTTON_HEIGHT) / 2;
  const close = { x: width - GAP - CLOSE_WIDTH, y, width: CLOSE_WIDTH, height: BUTTON_HEIGHT };
  return { width, close, size: { x: close.x - GAP - SIZE_WIDTH, y, width: SIZE_WIDTH, height: BUTTON_HEIGHT } };
}

/** Who shows something, in full; buttons lie over what is too long. */
export function drawHeader(
  { title, close, size }: { readonly title: string; readonly close: string; readonly size: string },
  layout: HeaderLayout,
): string {
  const from = layout.size.x - GAP;
  const button = (box: Box, label: string) =>
    `<rect x="${box.x}" y="${box.y}" width="${box.width}" height="${box.height}" rx="8" fill="none" stroke="#e6efe9"/>
    <text x="${box.x + box.width / 2}" y="${box.y + 21}" text-anchor="middle" font-size="14" fill="#ffffff">${escapeXml(label)}</text>`;
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${layout.width}" height="${HEADER_PX}" font-family="DejaVu Sans">
    <rect width="100%" height="100%" fill="#0f3d44"/>
    <text x="14" y="28" font-size="16" font-weight="bold" fill="#ffffff">${escapeXml(title)}</text>
    <rect x="${from}" width="${layout.width - from}" height="100%" fill="#0f3d44"/>
    ${button(layout.size, size)}${button(layout.close, close)}
  </svg>`;
}

/** A line beneath the picture. */
export const drawNote = (words: string, width: number): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${NOTE_PX}" font-family="DejaVu Sans">
    <rect width="100%" height="100%" fill="#faf6ec"/>
    <text x="14" y="21" font-size="14" fill="#22302f">${escapeXml(words)}</text>
  </svg>`;
