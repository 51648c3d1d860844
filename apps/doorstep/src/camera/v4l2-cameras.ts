import type { WhyNot } from '@porch/core';
import type { CameraPort, OpenCamera, OptionalPort } from '@porch/host';
import { Listeners } from '@porch/client';
import { accessSync, constants, readdirSync, watch, type FSWatcher } from 'node:fs';
import { delimiter, join } from 'node:path';
import { CAMERA_TOOL, V4l2Camera } from './v4l2-camera.ts';

/** Where this system has its devices. */
export const DEVICES = '/dev';

/** The cameras of this computer, as Video4Linux2 has them: they come and go with their cables. */
export class V4l2Cameras implements CameraPort {
  readonly #folder: string;
  readonly #path: string;
  readonly #listeners = new Listeners<{ changed: undefined }>();
  #watcher: FSWatcher | undefined;
  #isThere: boolean;

  /** `path`: where programs are looked for. */
  constructor(folder: string, path: string) {
    this.#folder = folder;
    this.#path = path;
    this.#isThere = this.#looked();
    try {
      this.#watcher = watch(folder, { persistent: false }, () => this.#look());
      // A folder that goes takes its cameras with it.
      this.#watcher.on('error', () => this.#look());
    } catch {
      // Where nothing can be watched a camera that comes later is not seen: what is there now still is.
    }
  }

  get missing(): Partial<Record<OptionalPort, WhyNot>> {
    return this.#isThere ? {} : { camera: 'computer-cannot' };
  }
  onMissingChanged(listener: () => void): () => void {
    return this.#listeners.on('changed', listener);
  }

  /** The first that can be opened. */
  async open(onGone: () => void): Promise<OpenCamera> {
    const troubles: unknown[] = [];
    for (const device of this.#devices()) {
      try {
        const camera = await V4l2Camera.open(device, onGone);
        if (camera) return camera;
        troubles.push(new Error(`${device} gives no JPEG`));
      } catch (error) {
        troubles.push(error);
      }
    }
    throw new AggregateError(troubles, 'no camera can be opened');
  }

  close(): void {
    this.#watcher?.close();
    this.#listeners.clear();
  }

  #look(): void {
    const isThere = this.#looked();
    if (isThere === this.#isThere) return;
    this.#isThere = isThere;
    this.#listeners.emit('changed', undefined);
  }
  #looked(): boolean {
    return this.#devices().length > 0 && this.#hasTool();
  }

  #devices(): string[] {
    try {
      const numbers = readdirSync(this.#folder).flatMap((name) => /^video(\d{1,3})$/.exec(name)?.[1] ?? []);
      return numbers
        .map(Number)
        .sort((a, b) => a - b)
        .map((number) => join(this.#folder, `video${number}`));
    } catch {
      return []; // No such folder: no cameras.
    }
  }
  #hasTool(): boolean {
    return this.#path.split(delimiter).some((folder) => {
      try {
        accessSync(join(folder, CAMERA_TOOL), constants.X_OK);
        return true;
      } catch {
        return false;
      }
    });
  }
}
