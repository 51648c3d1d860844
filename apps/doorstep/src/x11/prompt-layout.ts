import type { Question } from '../desktop/desktop.ts';
import { escapeXml, wrapText } from './svg-text.ts';

/** Yes and No are alike: same size, same colours, side by side. */
const BUTTON = { width: 236, height: 64 };
const WIDTH = 600;
const MARGIN = 32;
const LINE_PX = 26;
const CHARACTERS = 54;

export interface Box {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}
export interface PromptLayout {
  readonly width: number;
  readonly height: number;
  readonly yes: Box;
  readonly no: Box;
  readonly lines: readonly string[];
  readonly title: readonly string[];
}

export const contains = (box: Box, x: number, y: number): boolean =>
  x >= box.x && x < box.x + box.width && y >= box.y && y < box.y + box.height;

export function layoutPrompt(question: Question): PromptLayout {
  const title = wrapText(question.title, 40);
  const lines = question.lines.flatMap((line) => [...wrapText(line, CHARACTERS), '']).slice(0, -1);
  const buttonsY = 40 + title.length * 32 + 16 + lines.length * LINE_PX + 16;
  const height = buttonsY + BUTTON.height + 52;
  return {
    width: WIDTH,
    height,
    no: { x: MARGIN, y: buttonsY, ...BUTTON },
    yes: { x: WIDTH - MARGIN - BUTTON.width, y: buttonsY, ...BUTTON },
    lines,
    title,
  };
}

export function drawPrompt(
  question: Question,
  layout: PromptLayout,
  isArmed: boolean,
  chosen: 'yes' | 'no' | undefined,
): string {
  const button = (box: Box, label: string, isChosen: boolean) => `
    <rect x="${box.x}" y="${box.y}" width="${box.width}" height="${box.height}" rx="10" fill="${isArmed ? '#ffffff' : '#efe9dd'}" stroke="#0f3d44" stroke-width="${isChosen ? 5 : 2}"/>
    <text x="${box.x + box.width / 2}" y="${box.y + 41}" text-anchor="middle" font-size="22" font-weight="bold" fill="${isArmed ? '#0f3d44' : '#8b8474'}">${escapeXml(label)}</text>`;
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${layout.width}" height="${layout.height}" font-family="DejaVu Sans">
    <rect width="100%" height="100%" fill="#faf6ec"/>
    <rect x="3" y="3" width="${layout.width - 6}" height="${layout.height - 6}" fill="none" stroke="#c77d0a" stroke-width="6"/>
    ${layout.title.map((line, i) => `<text x="${MARGIN}" y="${56 + i * 32}" font-size="24" font-weight="bold" fill="#0f3d44">${escapeXml(line)}</text>`).join('')}
    ${layout.lines.map((line, i) => `<text x="${MARGIN}" y="${40 + layout.title.length * 32 + 30 + i * LINE_PX}" font-size="17" fill="#22302f">${escapeXml(line)}</text>`).join('')}
    ${button(layout.no, question.no, chosen === 'no')}${button(layout.yes, question.yes, chosen === 'yes')}
    <text x="${layout.width / 2}" y="${layout.height - 20}" text-anchor="middle" font-size="13" fill="#5a5648">${escapeXml(isArmed ? question.onlyYou : question.readFirst)}</text>
  </svg>`;
}
