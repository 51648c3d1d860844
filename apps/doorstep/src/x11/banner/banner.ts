import type { BannerWords } from '@porch/host';
import x11, { type Shape } from 'x11';
import { contains, type Box } from '../server/box.ts';
import type { XConnection } from '../server/connection.ts';
import { OwnWindow } from '../server/own-window.ts';
import { escapeXml } from '../server/svg-text.ts';

const HEIGHT = 48;
const MOST_WIDTH = 900;
/** Room that is left of the bar on both sides of a narrow screen. */
const MARGIN = 8;

export interface BannerLayout {
  readonly width: number;
  readonly stop: Box;
  readonly hide: Box;
  readonly private: Box;
}

/** Stop is in sight on the narrowest screen; names give way to it. */
export function layoutBanner(screenWidth: number): BannerLayout {
  const width = Math.min(MOST_WIDTH, screenWidth - 2 * MARGIN);
  const box = (right: number, boxWidth: number): Box => ({ x: right - boxWidth, y: 6, width: boxWidth, height: 36 });
  const stop = box(width - 8, 120);
  const hide = box(stop.x - 8, 112);
  return { width, stop, hide, private: box(hide.x - 8, 120) };
}

const FRAME_PX = 4;

export interface BannerPresses {
  onStop(): void;
  onHide(): void;
  onPrivate(): void;
}

/** The bar that says who is here and what they may do, with Stop, and a frame around the whole screen. */
export class Banner {
  readonly #x: XConnection;
  readonly #shape: Shape;
  readonly #presses: BannerPresses;
  #bar: OwnWindow | undefined;
  #frame: OwnWindow[] = [];
  #isAtTop = true;
  #size = { width: 0, height: 0 };
  #layout = layoutBanner(MOST_WIDTH);

  constructor(x: XConnection, shape: Shape, presses: BannerPresses) {
    this.#x = x;
    this.#shape = shape;
    this.#presses = presses;
  }

  async show(words: BannerWords): Promise<void> {
    if (!this.#bar) await this.#open();
    await this.#bar?.draw(drawBanner(words, this.#layout));
  }

  hide(): void {
    this.#bar?.close();
    this.#frame.forEach((edge) => edge.close());
    this.#bar = undefined;
    this.#frame = [];
  }

  async #open(): Promise<void> {
    const { width, height } = (this.#size = await this.#x.size());
    const layout = (this.#layout = layoutBanner(width));
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
      this.#shape.Rectangles(this.#shape.Op['Set'] ?? 0, this.#shape.Kind['Input'] ?? 2, window.id, 0, 0, []);
      return window;
    });
    const bar = new OwnWindow(
      this.#x,
      'Zesty Porch',
      { x: this.#barX(), y: FRAME_PX, width: layout.width, height: HEIGHT },
      0x0f3d44,
      (event) => {
        if (event.name !== 'ButtonPress') return;
        const isAt = (box: Box) => contains(box, event.x ?? -1, event.y ?? -1);
        if (isAt(layout.stop)) this.#presses.onStop();
        else if (isAt(layout.hide)) this.#presses.onHide();
        else if (isAt(layout.private)) this.#presses.onPrivate();
        else this.#swapSides();
      },
    );
    this.#x.client.ChangeWindowAttributes(bar.id, {
      eventMask:
        (x11.eventMask['Exposure'] ?? 0) |
        (x11.eventMask['VisibilityChange'] ?? 0) |
        (x11.eventMask['ButtonPress'] ?? 0),
    });
    this.#bar = bar;
    this.#isAtTop = true;
  }

  #barX(): number {
    return Math.round((this.#size.width - this.#layout.width) / 2);
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

function drawBanner(
  { who, what, stop, hide, private: alone, control }: BannerWords,
  { width: barWidth, ...boxes }: BannerLayout,
): string {
  const buttonsFrom = boxes.private.x - 8;
  const label = ({ x, width }: Box, y: number, size: number, text: string, weight = 'normal') =>
    `<text x="${x + width / 2}" y="${y}" text-anchor="middle" font-size="${size}" font-weight="${weight}" fill="#ffffff">${escapeXml(text)}</text>`;
  const frame = ({ x, y, width, height }: Box, look: string) =>
    `<rect x="${x}" y="${y}" width="${width}" height="${height}" rx="8" ${look}/>`;
  const outlined = 'fill="none" stroke="#e6efe9"';
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${barWidth}" height="${HEIGHT}" font-family="DejaVu Sans">
    <rect width="100%" height="100%" fill="#0f3d44"/><circle cx="24" cy="24" r="8" fill="#f2b84b"/>
    <text x="44" y="21" font-size="16" font-weight="bold" fill="#ffffff">${escapeXml(who)}</text>
    <text x="44" y="39" font-size="13" fill="#e6efe9">${escapeXml(what)}</text>
    <rect x="${buttonsFrom}" width="${barWidth - buttonsFrom}" height="100%" fill="#0f3d44"/>
    ${frame(boxes.hide, outlined)}${label(boxes.hide, 29, 15, hide)}
    ${frame(boxes.private, outlined)}${label(boxes.private, 23, 15, alone)}${label(boxes.private, 37, 11, `${control}+Alt+P`)}
    ${frame(boxes.stop, 'fill="#b3261e"')}${label(boxes.stop, 24, 17, stop, 'bold')}${label(boxes.stop, 37, 11, `${control}+Alt+S`)}
  </svg>`;
}
