import { inBackground, Listeners } from '@porch/client';
import type { CameraPort, CameraShown, CameraWish, OpenCamera } from '@porch/host';
import { shallowRef } from 'vue';
import type { BrowserCamera } from './browser-camera.ts';

const nothingShown: CameraShown = { is: undefined, viewers: [], isLightOn: false, hasLight: false, taken: 0 };

/** This page's camera: opened when somebody who may looks through it, and closed when nobody does. */
export class PageCamera implements CameraPort {
  readonly now = shallowRef<CameraShown>(nothingShown);
  /** For a copy in this page: whoever holds the camera sees what is seen. */
  readonly stream = shallowRef<MediaStream>();
  readonly hasOther = shallowRef(false);
  readonly #wishes = new Listeners<{ wish: CameraWish }>();
  #camera: BrowserCamera | undefined;

  static readonly isPossible =
    'navigator' in globalThis && 'mediaDevices' in navigator && 'OffscreenCanvas' in globalThis;

  async open(onGone: () => void): Promise<OpenCamera> {
    const { BrowserCamera: kind, cameras } = await import('./browser-camera.ts');
    const camera = await kind.open(onGone, (stream) => (this.stream.value = stream));
    this.#camera = camera;
    this.hasOther.value = (await cameras()).length > 1;
    return camera;
  }
  show(now: CameraShown): void {
    this.now.value = now;
    if (now.is !== 'open') this.stream.value = undefined;
  }
  onWish(listener: (wish: CameraWish) => void): () => void {
    return this.#wishes.on('wish', listener);
  }

  /** What the person here presses. */
  wish(wish: CameraWish): void {
    this.#wishes.emit('wish', wish);
  }
  takeOther(): void {
    inBackground('the other camera', this.#camera?.takeOther() ?? Promise.resolve());
  }
}
