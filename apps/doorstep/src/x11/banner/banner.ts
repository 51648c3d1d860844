import type { BannerWords } from '@porch/host';
import { contains, type Box } from '../server/box.ts';
import type { XConnection } from '../server/connection.ts';
import type { BasicExtensions } from '../server/extensions.ts';
import { OwnDevices } from '../server/own-devices.ts';
import { OwnWindow } from '../server/own-window.ts';
import { escapeXml } from '../server/svg-text.ts';
import type { OwnTool } from '../wishes.ts';

const HEIGHT = 48;
const MOST_WIDTH = 900;
/** Room that is left of the bar on both sides of a narrow screen. */
const MARGIN = 8;
const MUTE_WIDTH = 116;
const FILES_WIDTH = 112;
const LESS_WIDTH = 40;

/** Everything that can be pressed on the bar. */
const presses = [
  'stop',
  'hide',
  'private',
  'mute',
  'files',
  'draw',
  'undo',
  'clear',
  'pen',
  'arrow',
  'box',
  // Smaller and aside, and back.
  'less',
  'more',
] as const;
export type BannerPress = (typeof presses)[number];
export type BannerLayout = { readonly width: number } & Readonly<Partial<Record<BannerPress, Box>>> &
  Readonly<Record<'stop', Box>>;

/** From right to left, with how wide each is; what stands further left gives way first. */
const usual: readonly (readonly [BannerPress, number])[] = [
  ['stop', 120],
  ['hide', 112],
  ['private', 120],
  ['mute', MUTE_WIDTH],
  ['files', FILES_WIDTH],
  ['draw', 112],
  ['less', LESS_WIDTH],
];
const whileSmall: typeof usual = [
  ['stop', 120],
  ['more', 40],
];
const whileDrawing: typeof usual = [
  ['stop', 120],
  ['draw', 112],
  ['clear', 104],
  ['undo', 88],
  ['box', 84],
  ['arrow', 76],
  ['pen', 76],
];
const GAP = 8;
/** As small as it gets: who is here, what they may do, and Stop. */
const SMALL_WIDTH = 480;
/** Of the words; what would leave less gives way. */
const LEAST_WORDS = 380;

/** Stop is in sight on the narrowest screen; names give way to it, and tools to what ends them. */
export function layoutBanner(
  screenWidth: number,
  { canDraw = true, isDrawing = false, canMute = false, hasFiles = false, isSmall = false } = {},
): BannerLayout {
  const more = isDrawing ? 0 : (canMute ? MUTE_WIDTH : 0) + (hasFiles ? FILES_WIDTH : 0);
  const width = Math.min(isSmall ? SMALL_WIDTH : MOST_WIDTH + LESS_WIDTH + GAP + more, screenWidth - 2 * MARGIN);
  const boxes: Partial<Record<BannerPress, Box>> = {};
  let right = width - GAP;
  for (const [name, boxWidth] of isSmall ? whileSmall : isDrawing ? whileDrawing : usual) {
    const isMissing = { draw: !canDraw, mute: !canMute, files: !hasFiles } as Partial<Record<BannerPress, boolean>>;
    if (isMissing[name] || right - boxWidth < (name === 'less' ? LEAST_WORDS : GAP)) continue;
    boxes[name] = { x: right - boxWidth, y: 6, width: boxWidth, height: 36 };
    right -= boxWidth + GAP;
  }
  return { width, stop: { x: width - GAP - 120, y: 6, width: 120, height: 36 }, ...boxes };
}

const FRAME_PX = 4;

export interface BannerPresses {
  onStop(): void;
  onHide(): void;
  onPrivate(): void;
  onMute(): void;
  onFiles(): void;
  onDraw(): void;
  onTool(tool: OwnTool): void;
  onUndo(): void;
  onClear(): void;
}

/** The bar that says who is here and what they may do, with Stop, and a frame around the whole screen. */
export class Banner {
  readonly #x: XConnection;
  readonly #extensions: BasicExtensions;
  #own: OwnDevices | undefined;
  readonly #presses: BannerPresses;
  #bar: OwnWindow | undefined;
  #frame: OwnWindow[] = [];
  #isAtTop = true;
  #isSmall = false;
  #size = { width: 0, height: 0 };
  #layout = layoutBanner(MOST_WIDTH);
  #words: BannerWords | undefined;
  #tool: OwnTool = 'pen';

  constructor(x: XConnection, extensions: BasicExtensions, presses: BannerPresses) {
    this.#x = x;
    this.#extensions = extensions;
    this.#presses = presses;
  }

  async show(words: BannerWords): Promise<void> {
    if (!this.#bar) await this.#open();
    // Whoever begins anew begins with the pen.
    if (!words.drawing) this.#tool = 'pen';
    // Whoever draws needs its tools.
    else this.#isSmall = false;
    this.#words = words;
    this.#lay(words);
    await this.#bar?.draw(drawBanner(words, this.#layout, this.#tool));
  }

  #lay(words: BannerWords): void {
    const before = this.#layout;
    this.#layout = layoutBanner(this.#size.width, {
      canDraw: words.draw !== undefined,
      isDrawing: !!words.drawing,
      canMute: words.mute !== undefined,
      hasFiles: words.files !== undefined,
      isSmall: this.#isSmall,
    });
    if (this.#bar && this.#layout.width !== before.width)
      this.#x.client.ConfigureWindow(this.#bar.id, { x: this.#barX(), width: this.#layout.width });
  }

  /** Smaller it stands aside; it says the same, and Stop is where it was: at its right end. */
  #setSmall(isSmall: boolean): void {
    this.#isSmall = isSmall;
    if (!this.#words) return;
    this.#lay(this.#words);
    this.#bar?.draw(drawBanner(this.#words, this.#layout, this.#tool)).catch(() => undefined);
  }

  hide(): void {
    this.#bar?.close();
    this.#frame.forEach((edge) => edge.close());
    this.#bar = undefined;
    this.#words = undefined;
    this.#frame = [];
  }

  async #open(): Promise<void> {
    const { width, height } = (this.#size = await this.#x.size());
    const layout = (this.#layout = layoutBanner(width));
    const { shape, xinput } = this.#extensions;
    this.#own = await OwnDevices.of(this.#x, xinput);
    // None of our windows overlaps another: two that both want to be on top would raise each other for ever.
    const sideHeight = height - 2 * FRAME_PX;
    const edges: Box[] = [
      { x: 0, y: 0, width, height: FRAME_PX },
      { x: 0, y: height - FRAME_PX, width, height: FRAME_PX },
      { x: 0, y: FRAME_PX, width: FRAME_PX, height: sideHeight },
      { x: width - FRAME_PX, y: FRAME_PX, width: FRAME_PX, height: sideHeight },
    ];
    this.#frame = edges.map((edge) => {
      const window = new OwnWindow(this.#x, 'Zesty Porch frame', edge, 0xc77d0a);
      // Clicks at the edge belong to what is beneath.
      shape.Rectangles(shape.Op['Set'] ?? 0, shape.Kind['Input'] ?? 2, window.id, 0, 0, []);
      return window;
    });
    const bar = new OwnWindow(
      this.#x,
      'Zesty Porch',
      { x: this.#barX(), y: FRAME_PX, width: layout.width, height: HEIGHT },
      0x0f3d44,
      {
        onEvent: ({ name, detail, x = -1, y = -1, sourceId }) => {
          if (name === 'XIButtonPress' && detail === 1) this.#press(x, y, this.#own?.has(sourceId) === true);
        },
      },
    );
    // Device 1 stands for all master devices; the event's source then names the real one.
    xinput.XISelectEvents(bar.id, [{ deviceId: 1, mask: xinput.EventMask['ButtonPress'] ?? 0 }]);
    this.#bar = bar;
    this.#isAtTop = true;
    this.#isSmall = false;
  }

  /** Anybody may stop it all; everything else is the person's own to press, and no program's. */
  #press(x: number, y: number, isOwn: boolean): void {
    const pressed = presses.find((name) => {
      const box = this.#layout[name];
      return box && contains(box, x, y);
    });
    if (!isOwn && pressed !== 'stop') return;
    switch (pressed) {
      case 'stop':
        return this.#presses.onStop();
      case 'hide':
        return this.#presses.onHide();
      case 'private':
        return this.#presses.onPrivate();
      case 'mute':
        return this.#presses.onMute();
      case 'files':
        return this.#presses.onFiles();
      case 'draw':
        return this.#presses.onDraw();
      case 'undo':
        return this.#presses.onUndo();
      case 'clear':
        return this.#presses.onClear();
      case 'less':
      case 'more':
        return this.#setSmall(pressed === 'less');
      case undefined:
        return this.#swapSides();
      default:
        this.#tool = pressed;
        this.#presses.onTool(pressed);
        // What is chosen is drawn as such; a bar that went meanwhile shows nothing.
        if (this.#words) this.#bar?.draw(drawBanner(this.#words, this.#layout, pressed)).catch(() => undefined);
    }
  }

  #barX(): number {
    const room = this.#size.width - this.#layout.width;
    return this.#isSmall ? room - FRAME_PX : Math.round(room / 2);
  }

  /** A click beside Stop moves the bar out of the way, to the other end of the screen. */
  #swapSides(): void {
    this.#isAtTop = !this.#isAtTop;
    if (this.#bar)
      this.#x.client.MoveWindow(
        this.#bar.id,
        this.#barX(),
        this.#isAtTop ? FRAME_PX : this.#size.height - HEIGHT - FRAME_PX,
      );
  }
}

function drawBanner(words: BannerWords, layout: BannerLayout, tool: OwnTool): string {
  const { who, what, stop, hide, private: alone, control, drawing } = words;
  const label = ({ x, width }: Box, y: number, size: number, text: string, weight = 'normal') =>
    `<text x="${x + width / 2}" y="${y}" text-anchor="middle" font-size="${size}" font-weight="${weight}" fill="#ffffff">${escapeXml(text)}</text>`;
  const frame = ({ x, y, width, height }: Box, look: string) =>
    `<rect x="${x}" y="${y}" width="${width}" height="${height}" rx="8" ${look}/>`;
  const outlined = 'fill="none" stroke="#e6efe9"';
  const button = (name: BannerPress, text: string, key?: string) => {
    const box = layout[name];
    if (!box) return '';
    const isChosen = name === tool;
    const ground = frame(box, isChosen && drawing ? 'fill="#2f6f78" stroke="#ffffff" stroke-width="2"' : outlined);
    return key
      ? ground + label(box, 23, 15, text) + label(box, 37, 11, `${control}+Alt+${key}`)
      : ground + label(box, 29, 15, text, isChosen && drawing ? 'bold' : 'normal');
  };
  const buttons = drawing
    ? [
        button('draw', drawing.done, 'D'),
        button('clear', drawing.clear),
        button('undo', drawing.undo),
        ...(['pen', 'arrow', 'box'] as const).map((one) => button(one, drawing.tools[one])),
      ]
    : [
        button('hide', hide),
        button('private', alone, 'P'),
        button('mute', words.mute ?? '', 'M'),
        button('files', words.files ?? '', 'F'),
        button('draw', words.draw ?? '', 'D'),
      ];
  buttons.push(button('less', '–'), button('more', '+'));
  const barWidth = layout.width;
  const buttonsFrom = Math.min(...presses.flatMap((name) => layout[name]?.x ?? [])) - GAP;
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${barWidth}" height="${HEIGHT}" font-family="DejaVu Sans">
    <rect width="100%" height="100%" fill="#0f3d44"/><circle cx="24" cy="24" r="8" fill="#f2b84b"/>
    <text x="44" y="21" font-size="16" font-weight="bold" fill="#ffffff">${escapeXml(who)}</text>
    <text x="44" y="39" font-size="13" fill="#e6efe9">${escapeXml(what)}</text>
    <rect x="${buttonsFrom}" width="${barWidth - buttonsFrom}" height="100%" fill="#0f3d44"/>
    ${buttons.join('')}
    ${frame(layout.stop, 'fill="#b3261e"')}${label(layout.stop, 24, 17, stop, 'bold')}${label(layout.stop, 37, 11, `${control}+Alt+S`)}
  </svg>`;
}
