import type { Answer, BannerWords, Question } from '@porch/host';
import x11, { type XEvent, type XInput, type Shape } from 'x11';
import {
  contains,
  drawPrompt,
  layoutPrompt,
  placeAt,
  placesOf,
  WORDS_PROPERTY,
  type Box,
  type Place,
} from './prompt-layout.ts';
import { escapeXml } from './svg-text.ts';
import { renderSvg } from './text-picture.ts';
import type { XConnection } from './x-connection.ts';

/** Nothing pressed within the first second counts: nobody can answer what they had no time to read. */
export const ARMING_MS = 1_000;
/** Windows that fight for the top are raised again at most this often. */
const RAISE_MS = 150;
const ATOM_STRING = 31;
const TAB = 0xff09;
const ENTER = 0xff0d;
const SPACE = 0x20;
const LEFT = 0xff51;
const RIGHT = 0xff53;

/** A window of ours, above everything, that no window manager moves or covers. */
export class OwnWindow {
  readonly id: number;
  readonly #x: XConnection;
  readonly #gc: number;
  readonly #listener: (event: XEvent) => void;
  #picture: { width: number; height: number; bgrx: Buffer } | undefined;
  #raisedAtMs = 0;
  #raise: ReturnType<typeof setTimeout> | undefined;

  constructor(
    x: XConnection,
    name: string,
    box: Box,
    background: number,
    onEvent: (event: XEvent) => void = () => undefined,
  ) {
    this.#x = x;
    const { client } = x;
    this.id = client.AllocID();
    client.CreateWindow(this.id, x.root, box.x, box.y, box.width, box.height, 0, 0, 0, 0, {
      overrideRedirect: 1,
      backgroundPixel: background,
      eventMask: (x11.eventMask['Exposure'] ?? 0) | (x11.eventMask['VisibilityChange'] ?? 0),
    });
    client.ChangeProperty(0, this.id, 39, ATOM_STRING, 8, Buffer.from(name));
    this.#gc = client.AllocID();
    client.CreateGC(this.#gc, this.id, {});
    this.#listener = (event) => {
      if (event.wid !== this.id) return;
      if (event.name === 'Expose') this.#paint();
      else if (event.name === 'VisibilityNotify' && event.visibility !== 0) this.#raiseSoon();
      else onEvent(event);
    };
    client.on('event', this.#listener);
    client.MapWindow(this.id);
    client.RaiseWindow(this.id);
  }

  async draw(svg: string): Promise<void> {
    this.#picture = await renderSvg(svg);
    this.#paint();
  }

  close(): void {
    clearTimeout(this.#raise);
    this.#x.client.removeListener('event', this.#listener);
    if (!this.#x.isGone) this.#x.client.DestroyWindow(this.id);
  }

  #paint(): void {
    if (!this.#picture || this.#x.isGone) return;
    const { width, height, bgrx } = this.#picture;
    // A request is at most 256 KB: a picture goes in strips.
    const rows = Math.max(1, Math.floor(200_000 / (width * 4)));
    for (let y = 0; y < height; y += rows) {
      const count = Math.min(rows, height - y);
      this.#x.client.PutImage(
        2,
        this.id,
        this.#gc,
        width,
        count,
        0,
        y,
        0,
        24,
        bgrx.subarray(y * width * 4, (y + count) * width * 4),
      );
    }
  }

  #raiseSoon(): void {
    clearTimeout(this.#raise);
    this.#raise = setTimeout(
      () => {
        this.#raisedAtMs = Date.now();
        if (!this.#x.isGone) this.#x.client.RaiseWindow(this.id);
      },
      Math.max(0, this.#raisedAtMs + RAISE_MS - Date.now()),
    );
  }
}

/** Devices whose events a program made. Doorstep's own input comes from these, so a prompt never listens to them. */
export async function syntheticDevices(x: XConnection, xinput: XInput): Promise<ReadonlySet<number>> {
  const devices = await x.ask<{ deviceId: number; name: string }[]>((cb) => xinput.XIQueryDevice(0, cb));
  return new Set(devices.filter((d) => /XTEST/i.test(d.name)).map((d) => d.deviceId));
}

/** Asks the person at the desktop. Only presses of real devices count, and only once the prompt is armed. */
export async function askOnScreen(
  x: XConnection,
  xinput: XInput,
  question: Question,
  signal: AbortSignal,
): Promise<Answer | undefined> {
  const layout = layoutPrompt(question);
  const size = await x.size();
  const keysyms = await readKeysyms(x);
  const synthetic = await syntheticDevices(x, xinput);
  const [wordsAtom, utf8Atom] = [await x.atom(WORDS_PROPERTY), await x.atom('UTF8_STRING')];
  const focusBefore = await x.ask<{ focus: number }>((cb) => x.client.GetInputFocus(cb));
  if (signal.aborted) return undefined;
  return new Promise((resolve, reject) => {
    let isArmed = false;
    let chosen: Place | undefined;
    let pressed: Place | undefined;
    const ticked = (question.choices ?? []).map((choice) => choice.isOn);
    const places = placesOf(layout);
    const box = {
      x: Math.max(0, Math.round((size.width - layout.width) / 2)),
      y: Math.max(0, Math.round((size.height - layout.height) / 3)),
      width: layout.width,
      height: layout.height,
    };
    function draw(): void {
      window.draw(drawPrompt(question, layout, isArmed, chosen, ticked)).catch((error: unknown) => {
        cleanUp();
        reject(error instanceof Error ? error : new Error(String(error)));
      });
    }
    const window = new OwnWindow(x, 'Zesty Porch asks', box, 0xfaf6ec, (event) => {
      // A device that came after the prompt is looked up as made by a program until the next prompt.
      const isReal = event.sourceId !== undefined && !synthetic.has(event.sourceId);
      if (!isArmed || !isReal) return;
      const under = placeAt(layout, event.x ?? -1, event.y ?? -1);
      if (event.name === 'XIButtonPress' && event.detail === 1) pressed = under;
      else if (event.name === 'XIButtonRelease' && event.detail === 1) {
        if (under !== undefined && under === pressed) take(under);
        pressed = undefined;
      } else if (event.name === 'XIKeyPress') {
        const keysym = keysyms.get(event.detail ?? 0);
        if (keysym === TAB || keysym === RIGHT || keysym === LEFT) {
          const at = chosen === undefined ? -1 : places.indexOf(chosen);
          const step = keysym === LEFT ? places.length - 1 : 1;
          chosen = places[at < 0 ? 0 : (at + step) % places.length];
          draw();
        } else if ((keysym === ENTER || keysym === SPACE) && chosen !== undefined) take(chosen);
      }
    });
    /** A tick changes what a yes means; everything else is the answer. */
    function take(place: Place): void {
      if (typeof place === 'number') {
        if (question.isOneOf) ticked.fill(false);
        ticked[place] = !ticked[place];
        draw();
      } else finish(place === 'yes' ? { what: 'yes', choices: ticked } : { what: place });
    }
    const text = [question.title, ...question.lines].join('\n');
    x.client.ChangeProperty(0, window.id, wordsAtom, utf8Atom, 8, Buffer.from(text));
    const { ButtonPress = 0, ButtonRelease = 0, KeyPress = 0 } = xinput.EventMask;
    // Device 1 stands for all master devices; the event's source then names the real one.
    xinput.XISelectEvents(window.id, [{ deviceId: 1, mask: ButtonPress | ButtonRelease | KeyPress }]);
    x.client.SetInputFocus(window.id, 1);
    const arming = setTimeout(() => {
      isArmed = true;
      draw();
    }, ARMING_MS);
    function cleanUp(): void {
      clearTimeout(arming);
      signal.removeEventListener('abort', takeAway);
      window.close();
      if (!x.isGone && focusBefore.focus > 1) x.client.SetInputFocus(focusBefore.focus, 1);
    }
    function finish(answer: Answer | undefined): void {
      cleanUp();
      resolve(answer);
    }
    function takeAway(): void {
      finish(undefined);
    }
    draw();
    signal.addEventListener('abort', takeAway);
    x.onGone(takeAway);
  });
}

export async function readKeysyms(x: XConnection): Promise<Map<number, number>> {
  const { min_keycode: first, max_keycode: last } = x.client.display;
  const map = await x.ask<number[][]>((cb) => x.client.GetKeyboardMapping(first, last - first + 1, cb));
  return new Map(map.map((keysyms, i) => [first + i, keysyms[0] ?? 0]));
}

const BANNER = { width: 900, height: 48 };
const STOP: Box = { x: BANNER.width - 128, y: 6, width: 120, height: 36 };
const HIDE: Box = { x: STOP.x - 120, y: 6, width: 112, height: 36 };
const PRIVATE: Box = { x: HIDE.x - 128, y: 6, width: 120, height: 36 };
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

  constructor(x: XConnection, shape: Shape, presses: BannerPresses) {
    this.#x = x;
    this.#shape = shape;
    this.#presses = presses;
  }

  async show(words: BannerWords): Promise<void> {
    if (!this.#bar) await this.#open();
    await this.#bar?.draw(drawBanner(words));
  }

  hide(): void {
    this.#bar?.close();
    this.#frame.forEach((edge) => edge.close());
    this.#bar = undefined;
    this.#frame = [];
  }

  async #open(): Promise<void> {
    const { width, height } = (this.#size = await this.#x.size());
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
      { x: this.#barX(), y: FRAME_PX, ...BANNER },
      0x0f3d44,
      (event) => {
        if (event.name !== 'ButtonPress') return;
        const isAt = (box: Box) => contains(box, event.x ?? -1, event.y ?? -1);
        if (isAt(STOP)) this.#presses.onStop();
        else if (isAt(HIDE)) this.#presses.onHide();
        else if (isAt(PRIVATE)) this.#presses.onPrivate();
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
    return Math.max(0, Math.round((this.#size.width - BANNER.width) / 2));
  }

  /** A click beside Stop moves the bar out of the way, to the other end of the screen. */
  #swapSides(): void {
    this.#isAtTop = !this.#isAtTop;
    if (this.#bar)
      this.#x.client.MoveWindow(
        this.#bar.id,
        this.#barX(),
        this.#isAtTop ? FRAME_PX : this.#size.height - BANNER.height - FRAME_PX,
      );
  }
}

function drawBanner({ who, what, stop, hide, private: alone, control }: BannerWords): string {
  const label = ({ x, width }: Box, y: number, size: number, text: string, weight = 'normal') =>
    `<text x="${x + width / 2}" y="${y}" text-anchor="middle" font-size="${size}" font-weight="${weight}" fill="#ffffff">${escapeXml(text)}</text>`;
  const frame = ({ x, y, width, height }: Box, look: string) =>
    `<rect x="${x}" y="${y}" width="${width}" height="${height}" rx="8" ${look}/>`;
  const outlined = 'fill="none" stroke="#e6efe9"';
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${BANNER.width}" height="${BANNER.height}" font-family="DejaVu Sans">
    <rect width="100%" height="100%" fill="#0f3d44"/><circle cx="24" cy="24" r="8" fill="#f2b84b"/>
    <text x="44" y="21" font-size="16" font-weight="bold" fill="#ffffff">${escapeXml(who)}</text>
    <text x="44" y="39" font-size="13" fill="#e6efe9">${escapeXml(what)}</text>
    ${frame(HIDE, outlined)}${label(HIDE, 29, 15, hide)}
    ${frame(PRIVATE, outlined)}${label(PRIVATE, 23, 15, alone)}${label(PRIVATE, 37, 11, `${control}+Alt+P`)}
    ${frame(STOP, 'fill="#b3261e"')}${label(STOP, 24, 17, stop, 'bold')}${label(STOP, 37, 11, `${control}+Alt+S`)}
  </svg>`;
}
