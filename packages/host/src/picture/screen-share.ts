import { PictureError, decodeVersionTable, decodeWanted, type CursorShape, type Rect } from '@porch/screen';
import {
  realClock,
  realRandomness,
  type Clock,
  type Randomness,
  defaultBounds,
  frameKinds,
  THUMBNAIL_FROM,
  type Frame,
  type PictureMessage,
  type PictureBounds,
} from '@porch/wire';
import { inBackground, type Watcher } from '@porch/client';
import { DisplaySender } from './display-sender.ts';
import { EpochKeys } from './epoch-keys.ts';
import type { CapturedPiece, Monitor, ScreenSource } from './screen-source.ts';
import type { SharePort, SourceCodecs } from './share-port.ts';
import { SourceReport } from './source-report.ts';
import { Thumbnail } from './thumbnail.ts';
import { Vouching } from './vouching.ts';
import { MonitorList } from './monitor-list.ts';

const CHECKPOINT_MS = 1_000;
/** Below this the customer's line is what limits the picture. */
const SLOW_BYTES_PER_SECOND = 64 * 1024;
const PHOTO_QUALITY = 75;
const SLOW_PHOTO_QUALITY = 45;

/** Shares the screen with those who may look: captures, and each display on its way out. */
export class ScreenShare {
  readonly #port: SharePort;
  readonly #screen: ScreenSource;
  readonly #codecs: SourceCodecs;
  readonly #onTrouble: (error: unknown, what: string) => void;
  readonly #keys: EpochKeys;
  readonly #displays = new Map<number, DisplaySender>();
  readonly #thumbnails = new Map<number, Thumbnail>();
  readonly #vouching: Vouching;
  readonly #report = new SourceReport();
  #watchers: readonly Watcher[] = [];
  readonly monitors: MonitorList;
  #stopWatching: (() => void) | undefined;
  #isStarting = false;
  #bounds: PictureBounds = defaultBounds;
  #focus: { x: number; y: number } | undefined;
  #cursorShape: CursorShape | undefined;
  #endRounds: (() => void) | undefined;
  readonly #clock: Clock;
  /** The person here hears of it first. */
  tellWallpaper: (isHidden: boolean) => Promise<void> = () => Promise.resolve();

  constructor(
    port: SharePort,
    screen: ScreenSource,
    codecs: SourceCodecs,
    onTrouble: (error: unknown, what: string) => void,
    clock: Clock = realClock,
    random: Randomness = realRandomness,
  ) {
    this.#port = port;
    this.#screen = screen;
    this.monitors = new MonitorList(() => screen.size());
    this.#codecs = codecs;
    this.#onTrouble = onTrouble;
    this.#clock = clock;
    this.#keys = new EpochKeys(
      (seat, message) => port.tell(seat, message),
      () => this.#handleEpoch(),
      clock,
      random,
      port.lastEpoch,
    );
    this.#vouching = new Vouching({
      answers: () => screen.answers(),
      displays: this.#displays,
      watchers: () => this.#watchers,
      isWatching: () => this.#stopWatching !== undefined,
      onTrouble,
    });
  }

  /** The picture a technician's input was aimed at: its generation, and when it was replaced by a newer one. */
  aim(
    display: number,
  ):
    | { generation: number; monitor: Rect; newest: number; replacedAtMs(update: number): number | undefined }
    | undefined {
    const sender = this.#displays.get(display);
    const monitor = this.monitors.rectOf(display);
    if (!sender || !monitor) return undefined;
    const { generation, newest } = sender;
    return { generation, monitor, newest, replacedAtMs: (update) => sender.replacedAtMs(update) };
  }

  /** What is shown of a display now, what must not be seen covered; undefined while nobody looks at it. */
  pixels(display: number): { width: number; height: number; pixels: Uint32Array } | undefined {
    const source = this.#isWatched(display) ? this.#displays.get(display)?.source : undefined;
    return source && { ...source.grid, pixels: source.pixels };
  }

  /** Who looks now: only those whom a grant of ours lets. Nobody means that nothing is captured. */
  async setWatchers(watchers: readonly Watcher[]): Promise<void> {
    const newcomers = watchers.filter((w) => !this.#watchers.some((old) => old.start === w.start));
    this.#watchers = watchers;
    this.#vouching.welcome(newcomers);
    this.#keys.setViewers(watchers.map(({ seat, start }) => ({ seat, start })));
    this.#dropUnwatched();
    for (const { seat } of newcomers) this.#tellDisplays(seat);
    if (!watchers.length) {
      this.#stop();
      return;
    }
    if (this.#stopWatching) {
      this.#ensureDisplays();
      return;
    }
    if (this.#isStarting) return;
    this.#isStarting = true;
    try {
      this.#stopWatching = await this.#screen.watchScreen(
        {
          onPixels: (pieces) => this.#takePixels(pieces),
          onMonitors: (monitors) => this.#takeMonitors(monitors),
          onCursorShape: (shape) => {
            this.#cursorShape = shape;
            for (const sender of this.#displays.values()) sender.cursorShape(shape);
          },
          onCursorPosition: (x, y) => this.#takeCursor(x, y),
        },
        () => this.#mayGrab(),
        () => 1000 / this.#bounds.mostFramesPerSecond,
      );
      this.#endRounds = this.#clock.every(CHECKPOINT_MS, () => {
        this.#vouching.answerAll();
        this.#tellHow();
      });
    } finally {
      this.#isStarting = false;
    }
    // It may have been taken back while the watch began.
    if (!this.#watchers.length) this.#stop();
    else this.#ensureDisplays();
  }

  /** Words on the look channel from somebody who may look. */
  take(seat: number, message: PictureMessage): void {
    if (message.type === 'epochTaken') this.#keys.taken(seat, message.epoch);
    else if (message.type === 'needKey') this.#keys.tellAgain(seat);
    else if (message.type === 'challenge') {
      const { nonce, needsTable, display } = message;
      this.#vouching.ask(seat, { nonce, needsTable, display });
    } else if (message.type === 'bounds') inBackground('setting bounds', this.#setBounds(message.bounds));
  }

  close(): void {
    this.#watchers = [];
    this.#stop();
    this.#keys.close();
  }

  #stop(): void {
    this.#stopWatching?.();
    this.#stopWatching = undefined;
    this.#endRounds?.();
    for (const thumbnail of this.#thumbnails.values()) thumbnail.close();
    this.#thumbnails.clear();
    void this.#screen
      .hideWallpaper(false)
      .catch((error: unknown) => this.#onTrouble(error, 'the wallpaper cannot be shown again'));
  }

  async #setBounds(bounds: PictureBounds): Promise<void> {
    const isOtherColour = bounds.isGrey !== this.#bounds.isGrey;
    this.#bounds = bounds;
    for (const sender of this.#displays.values()) if (sender.source) sender.source.mayLose = this.#mayLose;
    if (isOtherColour) this.#screen.captureAll();
    const isHidden = bounds.hidesWallpaper && this.#watchers.length > 0;
    if (isHidden === this.#screen.isWallpaperHidden) return;
    await this.tellWallpaper(isHidden)
      .then(() => this.#screen.hideWallpaper(isHidden))
      .catch((error: unknown) => this.#onTrouble(error, 'the wallpaper cannot be hidden'));
  }

  get #mayLose(): boolean {
    return this.#codecs.encodeJpeg !== undefined && this.#bounds.preference !== 'text-first';
  }

  #mayGrab(): boolean {
    const hasRoom = this.#port.hasRoom;
    if (!hasRoom) this.#report.noteStarved();
    return hasRoom && this.#keys.epoch > 0;
  }

  #isWatched(display: number): boolean {
    return this.#watchers.some((w) => w.displays.includes(display));
  }

  #takeMonitors(monitors: readonly Monitor[]): void {
    this.monitors.set(monitors);
    this.#ensureDisplays();
    for (const { seat } of this.#watchers) this.#tellDisplays(seat);
  }

  /** Each watched display has a sender of its size; what is not watched costs nothing. */
  #ensureDisplays(): void {
    let isNew = false;
    for (const display of new Set(this.#watchers.flatMap((w) => w.displays))) {
      const rect = this.monitors.rectOf(display % THUMBNAIL_FROM);
      if (!rect) continue;
      if (display >= THUMBNAIL_FROM) {
        if (!this.#thumbnails.has(display)) {
          this.#thumbnails.set(
            display,
            new Thumbnail(this.#sender(display), () => this.monitors.rectOf(display % THUMBNAIL_FROM), this.#clock),
          );
          isNew = true;
        }
        continue;
      }
      const sender = this.#sender(display);
      const before = sender.generation;
      sender.setSize(rect.width, rect.height);
      if (sender.source) sender.source.mayLose = this.#mayLose;
      if (sender.generation !== before) isNew = true;
      if (this.#cursorShape && sender.generation !== before) sender.cursorShape(this.#cursorShape);
    }
    if (isNew) this.#screen.captureAll();
  }

  #sender(display: number): DisplaySender {
    const known = this.#displays.get(display);
    if (known) return known;
    const sender = new DisplaySender({
      port: this.#port,
      codecs: this.#codecs,
      display,
      clock: this.#clock,
      key: () => this.#keys,
      onTrouble: this.#onTrouble,
      jpegQuality: () => (this.#isSlow ? SLOW_PHOTO_QUALITY : PHOTO_QUALITY),
    });
    this.#displays.set(display, sender);
    return sender;
  }

  get #isSlow(): boolean {
    const rate = this.#port.bytesPerSecond;
    return (
      this.#bounds.preference === 'least-data' ||
      this.#bounds.preference === 'movement-first' ||
      (rate > 0 && rate < SLOW_BYTES_PER_SECOND)
    );
  }

  #dropUnwatched(): void {
    for (const [display, thumbnail] of this.#thumbnails)
      if (!this.#isWatched(display)) {
        thumbnail.close();
        this.#thumbnails.delete(display);
      }
  }

  #takePixels(pieces: readonly CapturedPiece[]): void {
    const startedAt = this.#clock.nowMs();
    this.#report.noteCapture();
    for (const [display, sender] of this.#displays) {
      if (display >= THUMBNAIL_FROM || !this.#isWatched(display)) continue;
      const monitor = this.monitors.rectOf(display);
      if (!monitor) continue;
      for (const { rect, pixels, covered } of pieces) {
        const local = { ...rect, x: rect.x - monitor.x, y: rect.y - monitor.y };
        sender.put(local, pixels, toLocal(covered, monitor));
        if (this.#bounds.isGrey) sender.source?.grey(local);
      }
    }
    for (const thumbnail of this.#thumbnails.values())
      for (const { rect, pixels, covered } of pieces) thumbnail.put(rect, pixels, covered);
    this.pump();
    this.#report.noteWork(this.#clock.nowMs() - startedAt);
  }

  #takeCursor(x: number, y: number): void {
    this.#focus = { x, y };
    for (const [display, sender] of this.#displays) {
      const monitor = this.monitors.rectOf(display);
      if (!monitor || display >= THUMBNAIL_FROM || !this.#isWatched(display)) continue;
      const isIn = x >= monitor.x && y >= monitor.y && x < monitor.x + monitor.width && y < monitor.y + monitor.height;
      if (isIn) sender.cursorAt(x - monitor.x, y - monitor.y);
    }
  }

  /** Sends what the line has room for. */
  pump(): void {
    for (const [display, sender] of this.#displays) {
      if (!this.#isWatched(display)) continue;
      const monitor = this.monitors.rectOf(display % THUMBNAIL_FROM);
      const focus =
        this.#focus && monitor && display < THUMBNAIL_FROM
          ? { x: this.#focus.x - monitor.x, y: this.#focus.y - monitor.y }
          : undefined;
      sender.pump(focus);
    }
    this.#vouching.answerNewcomers();
  }

  #handleEpoch(): void {
    for (const [display, sender] of this.#displays) {
      if (!this.#isWatched(display)) continue;
      // The first word of a new key: the relay drops what the old one sealed.
      sender.checkpoint([], true);
      sender.tellCursor();
    }
    this.pump();
  }

  /** What the relay asks for. */
  handleRelay(frame: Frame): void {
    const sender = this.#displays.get(frame.display);
    if (!sender) return;
    try {
      if (frame.kind === frameKinds.screen.want) sender.want(decodeWanted(frame.payload));
      else if (frame.kind === frameKinds.screen.holds) sender.wantWhatDiffers(decodeVersionTable(frame.payload));
    } catch (error) {
      if (!(error instanceof PictureError)) throw error;
    }
    this.pump();
  }

  #tellDisplays(seat: number): void {
    const displays = this.monitors.rows;
    if (displays.length) this.#port.tell(seat, { type: 'displays', displays });
  }

  #tellHow(): void {
    const now = this.#report.next(this.#bounds, this.#port, this.#screen.isWallpaperHidden);
    if (now) for (const { seat } of this.#watchers) this.#port.tell(seat, now);
  }
}

const toLocal = (rects: readonly Rect[], monitor: Rect): Rect[] =>
  rects.map((rect) => ({ ...rect, x: rect.x - monitor.x, y: rect.y - monitor.y }));
