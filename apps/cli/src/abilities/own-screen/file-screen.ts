import type { ScreenSource, ScreenWatcher } from '@porch/host';
import { unwatchFile, watchFile } from 'node:fs';
import { basename } from 'node:path';
import { readPictureFile, type FilePicture } from './picture-file.ts';

const LOOK_MS = 500;

/** A picture in a file, as a screen of its size: it changes when the file does. */
export class FileScreen implements ScreenSource {
  readonly isWallpaperHidden = false;
  readonly #file: string;
  #picture: FilePicture;
  #watcher: ScreenWatcher | undefined;
  readonly #look: () => void;

  constructor(file: string, picture: FilePicture) {
    this.#file = file;
    this.#picture = picture;
    this.#look = () => {
      // Half written, or gone for a moment: the one before stays, and the next change is looked at again.
      readPictureFile(file).then(
        (read) => this.#take(read),
        () => undefined,
      );
    };
    watchFile(file, { interval: LOOK_MS }, this.#look);
  }

  size = () => this.#picture;

  watchScreen(watcher: ScreenWatcher): Promise<() => void> {
    this.#watcher = watcher;
    this.#tellSize();
    this.captureAll();
    return Promise.resolve(() => (this.#watcher = undefined));
  }
  answers(): Promise<void> {
    return Promise.resolve();
  }
  captureAll(): void {
    const { width, height, pixels } = this.#picture;
    const watcher = this.#watcher;
    setImmediate(() => {
      if (this.#watcher === watcher) watcher?.onPixels([{ rect: { x: 0, y: 0, width, height }, pixels, covered: [] }]);
    });
  }
  hideWallpaper(): Promise<void> {
    return Promise.resolve();
  }

  close(): void {
    unwatchFile(this.#file, this.#look);
    this.#watcher = undefined;
  }

  #tellSize(): void {
    const { width, height } = this.#picture;
    this.#watcher?.onMonitors([{ name: basename(this.#file), rect: { x: 0, y: 0, width, height } }]);
  }
  #take(picture: FilePicture): void {
    const { width, height } = this.#picture;
    this.#picture = picture;
    if (picture.width !== width || picture.height !== height) this.#tellSize();
    this.captureAll();
  }
}
