import type { CursorShape, Inflate, PhotoPixels, Rect } from '@porch/screen';
import type { PictureAim } from './abilities/input.ts';
import { Listeners } from './listeners.ts';
import type { LiveConnection } from './live/live-connection.ts';
import { PictureViewer, type PictureStanding } from './picture-viewer.ts';
import type { PicturePort } from './abilities/picture.ts';

interface LocalPictureEvents {
  painted: { rects: readonly Rect[]; isNewSize: boolean };
  cursorShape: CursorShape;
  cursorAt: { x: number; y: number };
  checked: undefined;
  refused: undefined;
  /** The source's key is missing. */
  noKey: undefined;
}

/** A display's picture in this very process, as the command line and tests have it. Pages have it in a worker. */
export class LocalPicture implements PicturePort {
  readonly display: number;
  readonly from?: number;
  readonly viewer: PictureViewer;
  readonly listeners = new Listeners<LocalPictureEvents>();
  onResync: () => void = () => undefined;

  constructor(
    connection: LiveConnection,
    display: number,
    codecs: { inflate: Inflate; decodePhoto(jpeg: Uint8Array): Promise<PhotoPixels> },
    from?: number,
  ) {
    this.display = display;
    if (from !== undefined) this.from = from;
    this.viewer = new PictureViewer({
      display,
      ...codecs,
      now: () => connection.clock.nowMs(),
      random: connection.random,
      onPainted: (rects, isNewSize) => this.listeners.emit('painted', { rects, isNewSize }),
      onCursorShape: (shape) => this.listeners.emit('cursorShape', shape),
      onCursorAt: (x, y) => this.listeners.emit('cursorAt', { x, y }),
      onHandled: (bytes) => connection.handled(bytes),
      onResync: () => this.onResync(),
      onChecked: () => this.listeners.emit('checked', undefined),
      onTrouble: (trouble) => {
        this.listeners.emit(trouble === 'refused' ? 'refused' : 'noKey', undefined);
      },
    });
  }

  setKey: PictureViewer['setKey'] = (key) => this.viewer.setKey(key);
  take = (bytes: Uint8Array): void => this.viewer.take(bytes);
  challenge = () => Promise.resolve(this.viewer.makeChallenge());
  holds = () => Promise.resolve(this.viewer.holds);
  forget = (): void => this.viewer.forget();

  get standing(): PictureStanding {
    return this.viewer.standing;
  }
  get aim(): PictureAim {
    const { picture } = this.viewer;
    return { update: picture.newestNumber, display: this.display, generation: Math.max(0, picture.generation) };
  }
}
