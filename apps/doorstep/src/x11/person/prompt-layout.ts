import type { Question } from '@porch/host';
import { contains, type Box } from '../server/box.ts';
import { escapeXml, wrapText } from '../server/svg-text.ts';

/** Yes and No are alike: same size, same colours, side by side. */
const BUTTON = { width: 236, height: 64 };
const WIDTH = 600;
const MARGIN = 32;
const LINE_PX = 26;
const CHARACTERS = 54;
const CHOICE_PX = 36;
const LABEL_CHARACTERS = 48;
/** A line with what is typed, and above it what it is. */
const FIELD = { height: 44, labelPx: 28 };
/** More dots than these say nothing more. */
const MOST_DOTS = 32;

/** The question in words, for programs that read windows aloud: what is drawn is a picture to them. */
export const WORDS_PROPERTY = '_ZESTY_PORCH_WORDS';
/** Set once presses count, as the looks of the buttons say it: for whoever cannot see them. */
export const READY_PROPERTY = '_ZESTY_PORCH_READY';

export interface PromptLayout {
  readonly width: number;
  readonly height: number;
  readonly yes: Box;
  readonly no: Box;
  readonly choices: readonly Box[];
  readonly more: Box | undefined;
  /** Where what is typed is shown as dots. */
  readonly typed: Box | undefined;
  readonly lines: readonly string[];
  readonly title: readonly string[];
}

/** Free of the screen's edges. */
const EDGE = 8;
const WIDEST = 1_000;

/** As it reads best, and as much wider and closer as it takes for both answers to be on the screen. */
export function layoutPrompt(
  question: Question,
  screen: { readonly width: number; readonly height: number } = { width: Infinity, height: Infinity },
): PromptLayout {
  const wide = Math.max(WIDTH, Math.min(WIDEST, screen.width - 2 * EDGE));
  const ways = [
    [WIDTH, true],
    [WIDTH, false],
    [wide, false],
  ] as const;
  const layouts = ways.map(([width, isAiry]) => layoutIn(question, width, isAiry));
  return layouts.find(({ height }) => height <= screen.height - 2 * EDGE) ?? layoutIn(question, wide, false);
}

function layoutIn(question: Question, width: number, isAiry: boolean): PromptLayout {
  const share = (width - 2 * MARGIN) / (WIDTH - 2 * MARGIN);
  const title = wrapText(question.title, Math.floor(37 * share));
  const spaced = question.lines.flatMap((line) => [...wrapText(line, Math.floor(CHARACTERS * share)), '']);
  const lines = isAiry ? spaced.slice(0, -1) : spaced.filter((line) => line !== '');
  const textEndsY = 40 + title.length * 32 + 16 + lines.length * LINE_PX + 16;
  const choices = (question.choices ?? []).map((_, i) => ({
    x: MARGIN,
    y: textEndsY + i * CHOICE_PX,
    width: width - 2 * MARGIN,
    height: CHOICE_PX,
  }));
  const choicesEndY = textEndsY + choices.length * CHOICE_PX + (choices.length ? 12 : 0);
  const more = question.more ? { x: MARGIN, y: choicesEndY, width: width - 2 * MARGIN, height: CHOICE_PX } : undefined;
  const moreEndY = choicesEndY + (more ? CHOICE_PX + 12 : 0);
  const typed = question.typed
    ? { x: MARGIN, y: moreEndY + FIELD.labelPx, width: width - 2 * MARGIN, height: FIELD.height }
    : undefined;
  const buttonsY = moreEndY + (typed ? FIELD.labelPx + FIELD.height + 16 : 0);
  const height = buttonsY + BUTTON.height + 52;
  return {
    width,
    height,
    no: { x: MARGIN, y: buttonsY, ...BUTTON },
    yes: { x: width - MARGIN - BUTTON.width, y: buttonsY, ...BUTTON },
    choices,
    more,
    typed,
    lines,
    title,
  };
}

/** What can be reached with Tab: the two answers first, then what can be left out, then the third way. */
export type Place = 'no' | 'yes' | 'more' | number;
export const placesOf = (layout: PromptLayout): Place[] => [
  'no',
  'yes',
  ...layout.choices.map((_, i) => i),
  ...(layout.more ? ['more' as const] : []),
];
export function placeAt(layout: PromptLayout, x: number, y: number): Place | undefined {
  if (contains(layout.yes, x, y)) return 'yes';
  if (contains(layout.no, x, y)) return 'no';
  if (layout.more && contains(layout.more, x, y)) return 'more';
  const choice = layout.choices.findIndex((box) => contains(box, x, y));
  return choice < 0 ? undefined : choice;
}

export function drawPrompt(
  question: Question,
  layout: PromptLayout,
  isArmed: boolean,
  chosen: Place | undefined,
  ticked: readonly boolean[],
  typedCharacters = 0,
): string {
  const ink = isArmed ? '#0f3d44' : '#8b8474';
  const focus = (box: Box, isChosen: boolean) =>
    isChosen
      ? `<rect x="${box.x - 4}" y="${box.y}" width="${box.width + 8}" height="${box.height - 2}" rx="6" fill="none" stroke="#0f3d44" stroke-width="3"/>`
      : '';
  const choice = (box: Box, label: string, isOn: boolean, isChosen: boolean) => `
    <rect x="${box.x + 2}" y="${box.y + 6}" width="22" height="22" rx="${question.isOneOf ? 11 : 4}" fill="#ffffff" stroke="${ink}" stroke-width="2"/>
    ${isOn ? `<path d="M ${box.x + 7} ${box.y + 17} l 5 6 l 9 -12" fill="none" stroke="${ink}" stroke-width="3"/>` : ''}
    <text x="${box.x + 36}" y="${box.y + 24}" font-size="17" fill="#22302f">${escapeXml(wrapText(label, LABEL_CHARACTERS)[0] ?? '')}</text>
    ${focus(box, isChosen)}`;
  const more = layout.more
    ? `<text x="${layout.more.x}" y="${layout.more.y + 24}" font-size="17" text-decoration="underline" fill="${ink}">${escapeXml(question.more ?? '')}</text>${focus(layout.more, chosen === 'more')}`
    : '';
  const dots = '●'.repeat(Math.min(MOST_DOTS, typedCharacters));
  const typed = layout.typed
    ? `<text x="${layout.typed.x}" y="${layout.typed.y - 9}" font-size="17" fill="#22302f">${escapeXml(wrapText(question.typed?.label ?? '', CHARACTERS)[0] ?? '')}</text>
    <rect x="${layout.typed.x}" y="${layout.typed.y}" width="${layout.typed.width}" height="${layout.typed.height}" rx="6" fill="#ffffff" stroke="${ink}" stroke-width="2"/>
    <text x="${layout.typed.x + 12}" y="${layout.typed.y + 28}" font-size="15" fill="#22302f">${dots}</text>
    <rect x="${layout.typed.x + 13 + dots.length * 13}" y="${layout.typed.y + 10}" width="2" height="24" fill="${ink}"/>`
    : '';
  const button = (box: Box, label: string, isChosen: boolean) => `
    <rect x="${box.x}" y="${box.y}" width="${box.width}" height="${box.height}" rx="10" fill="${isArmed ? '#ffffff' : '#efe9dd'}" stroke="#0f3d44" stroke-width="${isChosen ? 5 : 2}"/>
    <text x="${box.x + box.width / 2}" y="${box.y + 41}" text-anchor="middle" font-size="22" font-weight="bold" fill="${isArmed ? '#0f3d44' : '#8b8474'}">${escapeXml(label)}</text>`;
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${layout.width}" height="${layout.height}" font-family="DejaVu Sans">
    <rect width="100%" height="100%" fill="#faf6ec"/>
    <rect x="3" y="3" width="${layout.width - 6}" height="${layout.height - 6}" fill="none" stroke="#c77d0a" stroke-width="6"/>
    ${layout.title.map((line, i) => `<text x="${MARGIN}" y="${56 + i * 32}" font-size="24" font-weight="bold" fill="#0f3d44">${escapeXml(line)}</text>`).join('')}
    ${layout.lines.map((line, i) => `<text x="${MARGIN}" y="${40 + layout.title.length * 32 + 30 + i * LINE_PX}" font-size="17" fill="#22302f">${escapeXml(line)}</text>`).join('')}
    ${layout.choices.map((box, i) => choice(box, question.choices?.[i]?.label ?? '', ticked[i] ?? false, chosen === i)).join('')}${more}${typed}
    ${button(layout.no, question.no, chosen === 'no')}${button(layout.yes, question.yes, chosen === 'yes')}
    <text x="${layout.width / 2}" y="${layout.height - 20}" text-anchor="middle" font-size="13" fill="#5a5648">${escapeXml(isArmed ? question.onlyYou : question.readFirst)}</text>
  </svg>`;
}
