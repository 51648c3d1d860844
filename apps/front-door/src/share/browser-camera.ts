import type { CameraPicture } from '@porch/client';
import type { OpenCamera } from '@porch/host';

/** Enough to read small print by, where the camera has it. */
const WISHED: MediaTrackConstraints = {
  width: { ideal: 1920 },
  height: { ideal: 1080 },
  frameRate: { ideal: 15, max: 30 },
};
const MOVING_QUALITY = 0.7;
const FULL_QUALITY = 0.92;
/** A camera that gives no single picture by then is asked for one of its moving ones. */
const PHOTO_MS = 4_000;
/** Nothing larger is drawn here. */
const MOST_SIDE_PIXELS = 8_192;

/** What W3C MediaStream Image Capture adds, as far as it is used here; some browsers have none of it. */
type ImageCaptureKind = new (track: MediaStreamTrack) => { takePhoto(): Promise<Blob> };
interface LightSet extends MediaTrackConstraintSet {
  readonly torch: boolean;
}
const lightOf = (track: MediaStreamTrack | undefined): boolean =>
  (track?.getCapabilities() as { readonly torch?: boolean } | undefined)?.torch === true;

/** A camera of this browser, open. */
export class BrowserCamera implements OpenCamera {
  readonly #video = document.createElement('video');
  readonly #canvas = new OffscreenCanvas(1, 1);
  readonly #onGone: () => void;
  readonly #onStream: (stream: MediaStream) => void;
  #stream: MediaStream | undefined;
  #isLightOn = false;
  #isClosed = false;

  /** Rejects when there is none, or the person or the browser does not let it be opened. */
  static async open(onGone: () => void, onStream: (stream: MediaStream) => void): Promise<BrowserCamera> {
    const camera = new BrowserCamera(onGone, onStream);
    // The one on the back, where there are two.
    await camera.#follow(
      await navigator.mediaDevices.getUserMedia({ video: { facingMode: 'environment', ...WISHED } }),
    );
    return camera;
  }

  private constructor(onGone: () => void, onStream: (stream: MediaStream) => void) {
    this.#onGone = onGone;
    this.#onStream = onStream;
    this.#video.muted = true;
    this.#video.playsInline = true;
  }

  get hasLight(): boolean {
    return lightOf(this.#track);
  }
  get isLightOn(): boolean {
    return this.#isLightOn;
  }

  async setLight(isOn: boolean): Promise<void> {
    await this.#track?.applyConstraints({ advanced: [{ torch: isOn } as LightSet] });
    this.#isLightOn = isOn;
  }

  async next(longestPixels: number): Promise<CameraPicture> {
    const { videoWidth: width, videoHeight: height } = this.#video;
    return this.#jpegOf(this.#video, { width, height }, longestPixels, MOVING_QUALITY);
  }

  /** Drawn anew, so that nothing is in it but the picture. */
  async fullSize(): Promise<CameraPicture> {
    const photo = await this.#photo();
    if (!photo) {
      const { videoWidth: width, videoHeight: height } = this.#video;
      return this.#jpegOf(this.#video, { width, height }, MOST_SIDE_PIXELS, FULL_QUALITY);
    }
    const bitmap = await createImageBitmap(photo);
    try {
      return await this.#jpegOf(bitmap, bitmap, MOST_SIDE_PIXELS, FULL_QUALITY);
    } finally {
      bitmap.close();
    }
  }

  /** The next of all cameras there are; the one that was stays when that one cannot be opened. */
  async takeOther(): Promise<void> {
    const all = await cameras();
    const now = this.#track?.getSettings().deviceId;
    const next = all[(all.findIndex(({ deviceId }) => deviceId === now) + 1) % all.length];
    if (!next || next.deviceId === now) return;
    // Telephones open one at a time.
    this.#stop();
    const open = (deviceId: string | undefined) =>
      navigator.mediaDevices.getUserMedia({
        video: { ...(deviceId ? { deviceId: { exact: deviceId } } : {}), ...WISHED },
      });
    await this.#follow(await open(next.deviceId).catch(() => open(now)));
  }

  close(): void {
    this.#isClosed = true;
    this.#stop();
    this.#video.srcObject = null;
  }

  get #track(): MediaStreamTrack | undefined {
    return this.#stream?.getVideoTracks()[0];
  }

  #stop(): void {
    for (const track of this.#stream?.getTracks() ?? []) track.stop();
    this.#stream = undefined;
    this.#isLightOn = false;
  }

  async #follow(stream: MediaStream): Promise<void> {
    this.#stream = stream;
    // It may have been closed while the browser asked.
    if (this.#isClosed) return this.#stop();
    // Pulled out of its socket, or taken away in the browser.
    this.#track?.addEventListener('ended', () => this.#stream === stream && this.#onGone());
    this.#video.srcObject = stream;
    await this.#video.play();
    this.#onStream(stream);
  }

  /** Undefined where the browser or this camera takes no single pictures. */
  async #photo(): Promise<Blob | undefined> {
    const { ImageCapture } = globalThis as { ImageCapture?: ImageCaptureKind };
    const track = this.#track;
    if (!ImageCapture || !track) return undefined;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const late = new Promise<undefined>((resolve) => (timer = setTimeout(() => resolve(undefined), PHOTO_MS)));
    const taken = new ImageCapture(track).takePhoto().catch(() => undefined);
    return Promise.race([taken, late]).finally(() => clearTimeout(timer));
  }

  async #jpegOf(
    picture: CanvasImageSource,
    full: { readonly width: number; readonly height: number },
    longestPixels: number,
    quality: number,
  ): Promise<CameraPicture> {
    const scale = Math.min(1, longestPixels / Math.max(full.width, full.height, 1));
    const width = Math.max(1, Math.round(full.width * scale));
    const height = Math.max(1, Math.round(full.height * scale));
    const canvas = this.#canvas;
    canvas.width = width;
    canvas.height = height;
    const context = canvas.getContext('2d');
    if (!context) throw new Error('this browser draws no pictures');
    context.drawImage(picture, 0, 0, width, height);
    const blob = await canvas.convertToBlob({ type: 'image/jpeg', quality });
    return { width, height, jpeg: new Uint8Array(await blob.arrayBuffer()) };
  }
}

export const cameras = async (): Promise<MediaDeviceInfo[]> =>
  (await navigator.mediaDevices.enumerateDevices()).filter(({ kind }) => kind === 'videoinput');
