import { markLines, strokePx, type Listeners } from '@porch/client';
import type { InkMark, InkPort } from '@porch/host';
import type { MarkMessage } from '@porch/wire';
import type { XEvent } from 'x11';
import type { Box } from '../server/box.ts';
import type { XConnection } from '../server/connection.ts';
import type { BasicExtensions } from '../server/extensions.ts';
import { ownWindowsOf, stackBelowOwn } from '../server/own-windows.ts';
import type { Painting } from '../server/painting.ts';
import type { Wishes } from '../wishes.ts';
import { DrawSurface } from './draw-surface.ts';
import type { InkPace } from '../server/ink-pace.ts';
import { InkWindow } from './ink-window.ts';
import { drawLabel } from './label.ts';
import { strokeRows, type Row } from './stroke-rows.ts';

/** Programs that come to the top are followed at most this often. */
const RESTACK_MS = 30;
/** So many rows are drawn before somebody else has a turn at the X server: what is pressed there waits no longer. */
const ROWS_AT_ONCE = 1_000;
/** A mark that another program takes away is drawn again, and not for ever. */
const MOST_REDRAWS = 20;
const NAME_PX = 13;
const TEXT_PX = 20;
/** Names that were drawn are kept, for so many people and colours. */
const MOST_LABELS = 100;
/** Every third row of a marker is drawn, so that words beneath it can be read. */
const MARKER_ROWS = 3;
const NAME_GAP_PX = 18;

/** Changes of other windows after which something may lie above the marks. */
const stackingEvents = new Set(['MapNotify', 'ConfigureNotify', 'ReparentNotify', 'CirculateNotify']);

interface Drawn {
  mark: InkMark;
  readonly window: InkWindow;
  /** What is still to be drawn of it. */
  readonly rows: Iterator<Row>[];
}

/**
 * Marks on the screen itself, each a window that is nothing but its shape: above all windows of other programs, beneath
 * those of our own, let through by every click, and gone with this program, however it ends. Names stand beside each
 * person's newest one.
 */
export class X11Ink implements InkPort {
  readonly isInPicture = true;
  readonly #x: XConnection;
  readonly #extensions: BasicExtensions;
  readonly #wishes: Listeners<Wishes>;
  readonly #pace: InkPace;
  readonly #own = new Set<(message: MarkMessage) => void>();
  readonly #drawn = new Map<number, Drawn>();
  readonly #names = new Map<number, { readonly at: string; readonly window: InkWindow }>();
  readonly #labels = new Map<string, Painting>();
  readonly #redraws = new Map<number, number>();
  #marks: readonly InkMark[] = [];
  #pumping: Promise<void> | undefined;
  #surface: DrawSurface | undefined;
  #restack: ReturnType<typeof setTimeout> | undefined;

  constructor(x: XConnection, extensions: BasicExtensions, wishes: Listeners<Wishes>, pace: InkPace) {
    this.#x = x;
    this.#pace = pace;
    this.#extensions = extensions;
    this.#wishes = wishes;
    x.client.on('event', (event) => this.#follow(event));
  }

  async showMarks(marks: readonly InkMark[]): Promise<void> {
    this.#marks = marks;
    await this.#makeLabels(marks);
    if (this.#x.isGone) return;
    // What was told meanwhile is what is drawn.
    this.#draw();
    await this.#pump();
  }

  onOwnMark(listener: (message: MarkMessage) => void): () => void {
    this.#own.add(listener);
    return () => this.#own.delete(listener);
  }

  letDraw(isOn: boolean): void {
    this.#surface?.close();
    this.#surface = undefined;
    if (!isOn || this.#x.isGone) return;
    this.#surface = new DrawSurface(this.#x, this.#extensions.xinput, this.#wishes, (message) =>
      this.#own.forEach((listener) => listener(message)),
    );
    this.#restackSoon(0);
  }

  get #windows(): number[] {
    const ink = [...this.#drawn.values(), ...this.#names.values()].map(({ window }) => window.id);
    return this.#surface ? [...ink, this.#surface.window] : ink;
  }

  /** What words there are is drawn beforehand, so that everything then changes at once. */
  async #makeLabels(marks: readonly InkMark[]): Promise<void> {
    for (const { mark, colour, name } of marks)
      for (const [words, size] of [
        [name, NAME_PX],
        [mark.text ?? '', TEXT_PX],
      ] as const) {
        const key = labelKey(words, colour, size);
        if (!words || this.#labels.has(key)) continue;
        const [oldest] = this.#labels.keys();
        if (oldest !== undefined && this.#labels.size >= MOST_LABELS) this.#labels.delete(oldest);
        this.#labels.set(key, await drawLabel(words, colour, size));
      }
  }

  #draw(): void {
    const before = this.#windows.length;
    const keys = new Set(this.#marks.map(({ key }) => key));
    for (const [key, { window }] of this.#drawn)
      if (!keys.has(key)) {
        window.close();
        this.#drawn.delete(key);
        this.#redraws.delete(key);
      }
    let isNew = false;
    for (const mark of this.#marks) isNew = this.#drawMark(mark) || isNew;
    isNew = this.#drawNames() || isNew;
    if (isNew || this.#windows.length !== before) stackBelowOwn(this.#x, this.#windows);
  }

  /** True when there is a window more. */
  #drawMark(mark: InkMark): boolean {
    const known = this.#drawn.get(mark.key);
    if (known && isSameBox(known.mark.monitor, mark.monitor)) {
      const before = known.mark.mark.points.length;
      // It has only grown: from its last point on.
      if (mark.mark.points.length > before) known.rows.push(rowsOf(mark, before - 1));
      known.mark = mark;
      return false;
    }
    // Its words are still being drawn: whoever waits for them draws it.
    if (mark.mark.text !== undefined && !this.#labelOf(mark)) return false;
    known?.window.close();
    this.#drawn.set(mark.key, { mark, window: this.#windowOf(mark), rows: [rowsOf(mark, 0)] });
    return true;
  }

  #windowOf(mark: InkMark): InkWindow {
    const { shape } = this.#extensions;
    const { monitor, colour } = mark;
    const label = this.#labelOf(mark);
    if (label) {
      const { x, y } = placeOf(mark);
      return this.#mapped(new InkWindow(this.#x, shape, within(mark, x, y, label), pixelOf(colour)).withPicture(label));
    }
    return this.#mapped(new InkWindow(this.#x, shape, monitor, pixelOf(colour)).asStroke());
  }
  #labelOf({ mark, colour }: InkMark): Painting | undefined {
    return mark.text === undefined ? undefined : this.#labels.get(labelKey(mark.text, colour, TEXT_PX));
  }

  /** Draws what is still to be drawn, a little at a time. */
  #pump(): Promise<void> {
    return (this.#pumping ??= this.#drawRows().finally(() => (this.#pumping = undefined)));
  }
  async #drawRows(): Promise<void> {
    do {
      // All of it in one writing: each costs more than what is written.
      const flushed = this.#x.together(() => {
        let room = ROWS_AT_ONCE;
        for (const { window, rows } of this.#drawn.values()) {
          const mine = take(rows, room);
          if (mine.length) window.add(mine);
          room -= mine.length;
        }
        if (room < ROWS_AT_ONCE) this.#pace.drawn(performance.now());
        return this.#x.flush();
      });
      await flushed;
    } while ([...this.#drawn.values()].some(({ rows }) => rows.length));
  }

  #drawNames(): boolean {
    let isNew = false;
    const newest = new Map(this.#marks.map((mark) => [mark.seat, mark]));
    for (const [seat, { window }] of this.#names)
      if (!newest.has(seat)) {
        window.close();
        this.#names.delete(seat);
      }
    for (const [seat, mark] of newest) {
      const label = this.#labels.get(labelKey(mark.name, mark.colour, NAME_PX));
      if (!label) continue;
      const { x, y } = placeOf(mark);
      // Beneath what is written, and beside what is drawn.
      const written = this.#labelOf(mark);
      const box = written
        ? within(mark, x, y + written.height, label)
        : within(mark, x + NAME_GAP_PX, y + NAME_GAP_PX, label);
      const at = JSON.stringify([box, mark.name]);
      const known = this.#names.get(seat);
      if (known?.at === at) continue;
      known?.window.close();
      const window = new InkWindow(this.#x, this.#extensions.shape, box, pixelOf(mark.colour)).withPicture(label);
      this.#names.set(seat, { at, window: this.#mapped(window) });
      isNew = true;
    }
    return isNew;
  }

  /** Beneath our own from the first moment on: nobody sees it lie above the bar. */
  #mapped(window: InkWindow): InkWindow {
    stackBelowOwn(this.#x, [window.id]);
    window.map();
    return window;
  }

  #follow(event: XEvent): void {
    if (event.name === 'Expose') {
      for (const { window } of [...this.#drawn.values(), ...this.#names.values()])
        if (window.id === event.wid) window.repaint();
      return;
    }
    if (event.name === 'DestroyNotify') return this.#takeLoss(event.wid ?? 0);
    if (!stackingEvents.has(event.name ?? '') || (!this.#drawn.size && !this.#surface)) return;
    const window = event.name === 'ConfigureNotify' ? (event['wid1'] as number) : event.wid;
    if (window === undefined || this.#windows.includes(window) || ownWindowsOf(this.#x).includes(window)) return;
    this.#restackSoon(RESTACK_MS);
  }

  /** Another program took one of our windows away. */
  #takeLoss(window: number): void {
    for (const [seat, name] of this.#names) if (name.window.id === window) this.#names.delete(seat);
    for (const [key, drawn] of this.#drawn) {
      if (drawn.window.id !== window) continue;
      const count = (this.#redraws.get(key) ?? 0) + 1;
      this.#redraws.set(key, count);
      this.#drawn.delete(key);
      if (count > MOST_REDRAWS || this.#x.isGone) continue;
      this.#draw();
      this.#pump().catch(() => undefined); // The server went; whoever follows it knows.
    }
  }

  #restackSoon(waitMs: number): void {
    this.#restack ??= setTimeout(() => {
      this.#restack = undefined;
      if (!this.#x.isGone) stackBelowOwn(this.#x, this.#windows);
    }, waitMs);
  }
}

const labelKey = (words: string, colour: string, sizePx: number): string => `${sizePx} ${colour} ${words}`;
const pixelOf = (colour: string): number => parseInt(colour.slice(1), 16);

const isSameBox = (a: Box, b: Box): boolean =>
  a.x === b.x && a.y === b.y && a.width === b.width && a.height === b.height;

/** Where it begins, in pixels of the screen. */
function placeOf({ monitor, mark }: InkMark): { x: number; y: number } {
  const { x = 0, y = 0 } = mark.points[0] ?? {};
  return { x: Math.round(monitor.x + x * monitor.width), y: Math.round(monitor.y + y * monitor.height) };
}

/** A box of this size at that place, moved as far as it takes to be on the display whole. */
function within({ monitor }: InkMark, x: number, y: number, { width, height }: { width: number; height: number }) {
  const most = { x: monitor.x + monitor.width - width, y: monitor.y + monitor.height - height };
  return { x: Math.max(monitor.x, Math.min(x, most.x)), y: Math.max(monitor.y, Math.min(y, most.y)), width, height };
}

/** The rows of a mark on its display, from one of its points on. */
function* rowsOf({ mark, monitor }: InkMark, fromPoint: number): Generator<Row> {
  const { width, height } = monitor;
  const isMarker = mark.kind === 'marker';
  const radius = strokePx(mark) / 2;
  const part = fromPoint > 0 ? { ...mark, points: mark.points.slice(fromPoint) } : mark;
  for (const line of markLines(part, width / height))
    yield* strokeRows(
      line.map(({ x, y }) => ({ x: x * width, y: y * height })),
      radius,
      isMarker ? MARKER_ROWS : 1,
    );
}

/** Takes so many rows at most; what has none left goes from the list. */
function take(left: Iterator<Row>[], most: number): Row[] {
  const taken: Row[] = [];
  while (taken.length < most && left[0]) {
    const next = left[0].next();
    if (next.done) left.shift();
    else taken.push(next.value);
  }
  return taken;
}
