import { OLD_MS, WatchedPictures, type PictureAim } from '@porch/client';
import { showingPermissions } from '@porch/core';
import {
  ALL_MONITORS,
  defaultBounds,
  THUMBNAIL_FROM,
  type DisplayRow,
  type PictureBounds,
  type PictureMessage,
} from '@porch/wire';
import { computed, shallowRef, watch } from 'vue';
import { defineTool, type ConsoleSession, type Tool } from '../console-ability.ts';
import type { StageScale } from './stage-geometry.ts';
import { StageWindows } from './stage-windows.ts';
import { StagePort, type StageEvents } from '@porch/pages/stage';

/** What the picture is like just now, in numbers that mean something to a person. */
export interface PictureNow {
  readonly bitsPerSecond: number;
  readonly framesPerSecond: number;
  /** From an act of ours to the next change of the picture; undefined while nobody works. */
  readonly inputDelayMs: number | undefined;
  /** Since everything shown was surely the newest; undefined before that was ever so. */
  readonly ageMs: number | undefined;
  readonly refused: number;
}
/** What a stage needs to be called with when something is to be painted. */
export type StageHandlers = Pick<StageEvents, 'onSize' | 'onCursorShape' | 'onCursorAt'>;

const NOW_MS = 1_000;
/** A change that comes this long after an act has another cause. */
const LONGEST_DELAY_MS = 2_000;

/** The customer's picture: which displays are shown where, how fresh they are, and what is wished of them. */
class PictureTool implements Tool {
  readonly displays = shallowRef<readonly DisplayRow[]>([]);
  readonly sourceNow = shallowRef<Extract<PictureMessage, { type: 'sourceNow' }>>();
  readonly now = shallowRef<PictureNow>();
  readonly bounds = shallowRef<PictureBounds>(defaultBounds);
  readonly hasPicture = shallowRef(false);
  /** This technician does not look just now: no stage is open, and nothing is sent here. */
  readonly isPaused = shallowRef(false);
  /** What the session's page shows of it, and how large. */
  readonly view = shallowRef<{ display: number; scale: StageScale }>({ display: 0, scale: 'fit' });
  /** How many times as large the surroundings of the pointer are shown; 1: not at all. */
  readonly lens = shallowRef(1);
  readonly windows: StageWindows;
  /** Where the stage is in the page. */
  readonly stageBox = shallowRef<HTMLElement>();
  /** An old picture is not worked with: called when it has become one. */
  onOld: () => void = () => undefined;
  /** Whether somebody works, for whom the delay is worth telling. */
  isWorked: () => boolean = () => false;
  readonly #session: ConsoleSession;
  readonly #look: WatchedPictures;
  readonly #stages = new Map<number, StagePort>();
  readonly #timer: ReturnType<typeof setInterval>;
  readonly #stopWatching: () => void;
  #bytes = 0;
  #painted = 0;
  #actedAtMs: number | undefined;
  #inputDelayMs: number | undefined;
  #standing: { ageMs: number | undefined; refused: number } = { ageMs: undefined, refused: 0 };

  constructor(session: ConsoleSession) {
    this.#session = session;
    this.windows = new StageWindows(session);
    this.#look = new WatchedPictures(session.connection);
    this.#look.listeners.on('displays', (displays) => (this.displays.value = displays));
    this.#look.listeners.on('sourceNow', (now) => (this.sourceNow.value = now));
    this.#timer = setInterval(() => this.#tellNow(), NOW_MS);
    session.connection.on('entry', () => this.#followPermission());
    // A monitor that went away leaves the first one.
    this.#stopWatching = watch(this.displays, (rows) => {
      const { display } = this.view.value;
      if (display < ALL_MONITORS && !rows.some((row) => row.display === display))
        this.view.value = { ...this.view.value, display: 0 };
    });
  }

  readonly mayLook = computed(
    () => (void this.#session.told.value, showingPermissions.some((permission) => this.#session.may(permission))),
  );

  /** Shows one display on a canvas, which is the worker's from then on. Hands back the stop. */
  showDisplay(display: number, canvas: HTMLCanvasElement, handlers: StageHandlers): () => void {
    this.#stages.get(display)?.close();
    const port: StagePort = new StagePort(display, canvas, {
      ...handlers,
      onPainted: () => this.#handlePainted(display),
      onStanding: (standing) => {
        if (display >= THUMBNAIL_FROM) return;
        const wasOld = this.isOld;
        this.#standing = standing;
        if (this.isOld && !wasOld) this.onOld();
        if (this.isOld !== wasOld) this.#tellNow();
      },
      onHandled: (bytes) => {
        this.#bytes += bytes;
        this.#session.connection.handled(bytes);
      },
      onNeedKey: () => this.#look.needKey(),
    });
    this.#stages.set(display, port);
    const close = this.#look.open(port);
    return () => {
      if (this.#stages.get(display) === port) this.#stages.delete(display);
      close();
      port.close();
      if (![...this.#stages.keys()].some((d) => d < THUMBNAIL_FROM)) this.hasPicture.value = false;
    };
  }

  get ageMs(): number | undefined {
    return this.#standing.ageMs;
  }
  /** Whether nobody has vouched for the picture lately. */
  get isOld(): boolean {
    return this.#standing.ageMs !== undefined && this.#standing.ageMs > OLD_MS;
  }
  isShown(display: number): boolean {
    return this.#stages.has(display);
  }
  aimAt(display: number): PictureAim {
    return this.#stages.get(display)?.aim ?? { update: 0, display, generation: 0 };
  }
  /** Something was done of which the picture should soon tell. */
  noteAct(): void {
    this.#actedAtMs ??= performance.now();
  }

  readonly setBounds = (bounds: PictureBounds): void => {
    this.bounds.value = bounds;
    this.#look.setBounds(bounds);
  };
  /** Full screen takes every key that the browser can give. */
  readonly fullScreen = async (): Promise<void> => {
    await this.stageBox.value?.requestFullscreen();
    const { keyboard } = navigator as Navigator & { keyboard?: { lock(): Promise<void> } };
    await keyboard?.lock();
  };

  close(): void {
    clearInterval(this.#timer);
    this.windows.closeAll();
    this.#stopWatching();
    this.#look.close();
    for (const port of this.#stages.values()) port.close();
    this.#stages.clear();
  }

  #handlePainted(display: number): void {
    if (display >= THUMBNAIL_FROM) return;
    this.#painted++;
    if (!this.hasPicture.value) this.hasPicture.value = true;
    if (this.#actedAtMs === undefined) return;
    const delayMs = performance.now() - this.#actedAtMs;
    this.#actedAtMs = undefined;
    if (delayMs < LONGEST_DELAY_MS)
      this.#inputDelayMs = this.#inputDelayMs === undefined ? delayMs : this.#inputDelayMs * 0.7 + delayMs * 0.3;
  }

  #tellNow(): void {
    this.now.value = {
      bitsPerSecond: this.#bytes * 8,
      framesPerSecond: this.#painted,
      inputDelayMs: this.isWorked() ? this.#inputDelayMs : undefined,
      ...this.#standing,
    };
    this.#bytes = 0;
    this.#painted = 0;
  }

  #followPermission(): void {
    if (this.#session.may('view-screen')) return;
    this.#look.forget();
    this.#standing = { ageMs: undefined, refused: 0 };
    this.hasPicture.value = false;
  }
}

export const pictureTool = defineTool({ name: 'picture', begin: (session) => new PictureTool(session) });
