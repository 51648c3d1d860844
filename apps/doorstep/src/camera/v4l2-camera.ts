import type { CameraPicture } from '@porch/client';
import type { OpenCamera } from '@porch/host';
import { jpegSize } from '@porch/screen';
import { execFile, spawn, type ChildProcess } from 'node:child_process';
import { promisify } from 'node:util';
import { cleanJpeg } from './clean-jpeg.ts';
import { JpegStream } from './jpeg-stream.ts';
import { hasLamp, jpegSizes, LAMP_OFF, LAMP_ON, sizeFor, type CameraSize } from './v4l2-listing.ts';

export const CAMERA_TOOL = 'v4l2-ctl';
const FRAMES_PER_SECOND = 15;
/** Until it has found how bright it is, a camera gives pictures that nobody wants to keep. */
const SETTLING_FRAMES = 4;
const MOST_PICTURE_BYTES = 16 * 1024 * 1024;
/** A camera is asked what it can do while everything else starts, too. */
const ASK_MS = 10_000;
const END_MS = 1_000;

const run = promisify(execFile);
/** What the tool says of a device. Rejects when it fails, or says nothing in time. */
const ask = async (device: string, ...args: string[]): Promise<string> =>
  (await run(CAMERA_TOOL, ['--device', device, ...args], { timeout: ASK_MS, maxBuffer: 256 * 1024 })).stdout;

/** One stream of pictures in one size, and the process that reads it from the device. */
interface Streaming {
  readonly size: CameraSize;
  readonly child: ChildProcess;
}

/**
 * A camera of Video4Linux2, read by the system's own tool, which is there only while pictures are wanted. The tool ends with
 * its output, so that it never outlives this process, and the camera's own lamp says the truth.
 */
export class V4l2Camera implements OpenCamera {
  readonly hasLight: boolean;
  readonly #device: string;
  readonly #sizes: readonly CameraSize[];
  readonly #onGone: () => void;
  #streaming: Streaming | undefined;
  #isLightOn = false;
  #isClosed = false;
  #waiting: { resolve(picture: CameraPicture): void; reject(error: Error): void }[] = [];
  /** A device is read by one at a time. */
  #turn: Promise<unknown> = Promise.resolve();

  /** Undefined when this device gives no pictures of its own that are JPEG. */
  static async open(device: string, onGone: () => void): Promise<V4l2Camera | undefined> {
    const sizes = jpegSizes(await ask(device, '--list-formats-ext'));
    if (!sizes.length) return undefined;
    return new V4l2Camera(device, sizes, hasLamp(await ask(device, '--list-ctrls')), onGone);
  }

  private constructor(device: string, sizes: readonly CameraSize[], hasLight: boolean, onGone: () => void) {
    this.#device = device;
    this.#sizes = sizes;
    this.hasLight = hasLight;
    this.#onGone = onGone;
  }

  get isLightOn(): boolean {
    return this.#isLightOn;
  }
  async setLight(isOn: boolean): Promise<void> {
    await ask(this.#device, '--set-ctrl', isOn ? LAMP_ON : LAMP_OFF);
    this.#isLightOn = isOn;
  }

  next(longestPixels: number): Promise<CameraPicture> {
    return this.#inTurn(() => this.#fresh(sizeFor(this.#sizes, longestPixels)));
  }

  fullSize(): Promise<CameraPicture> {
    return this.#inTurn(async () => {
      const size = this.#sizes.at(-1);
      if (this.#streaming?.size !== size) for (let i = 0; i < SETTLING_FRAMES; i++) await this.#fresh(size);
      return this.#fresh(size);
    });
  }

  close(): void {
    this.#isClosed = true;
    if (this.#isLightOn) ask(this.#device, '--set-ctrl', LAMP_OFF).catch(() => undefined); // It went, lamp and all.
    this.#end(new Error('the camera was closed')).catch(() => undefined); // Never rejects.
  }

  #inTurn<T>(work: () => Promise<T>): Promise<T> {
    const done = this.#turn.then(work, work);
    this.#turn = done.catch(() => undefined); // Told to whoever asked for it.
    return done;
  }

  async #fresh(size: CameraSize | undefined): Promise<CameraPicture> {
    if (this.#isClosed || !size) throw new Error('the camera was closed');
    if (this.#streaming?.size !== size) {
      await this.#end(new Error('another size is wanted'));
      this.#begin(size);
    }
    return new Promise((resolve, reject) => this.#waiting.push({ resolve, reject }));
  }

  #begin(size: CameraSize): void {
    const format = `width=${size.width},height=${size.height},pixelformat=MJPG`;
    const how = ['--set-fmt-video', format, '--set-parm', `${FRAMES_PER_SECOND}`, '--stream-mmap', '--stream-to', '-'];
    const child = spawn(CAMERA_TOOL, ['--device', this.#device, ...how], { stdio: ['ignore', 'pipe', 'ignore'] });
    const streaming = { size, child };
    this.#streaming = streaming;
    const pictures = new JpegStream(MOST_PICTURE_BYTES);
    child.stdout.on('data', (piece: Buffer) => {
      for (const jpeg of pictures.take(piece)) this.#took(streaming, jpeg);
    });
    const gone = (why: string) => {
      if (this.#streaming !== streaming) return;
      this.#streaming = undefined;
      this.#refuseAll(new Error(why));
      if (!this.#isClosed) this.#onGone();
    };
    child.once('error', (error) => gone(`the camera cannot be read: ${error.message}`));
    child.once('exit', () => gone('the camera gives no pictures any longer'));
  }

  #took(streaming: Streaming, bytes: Uint8Array): void {
    const jpeg = this.#streaming === streaming && this.#waiting.length ? cleanJpeg(bytes) : undefined;
    const size = jpeg && jpegSize(jpeg);
    if (!size) return;
    const waiting = this.#waiting;
    this.#waiting = [];
    for (const { resolve } of waiting) resolve({ ...size, jpeg });
  }

  #refuseAll(why: Error): void {
    const waiting = this.#waiting;
    this.#waiting = [];
    for (const { reject } of waiting) reject(why);
  }

  /** Resolves once the device is free. */
  async #end(why: Error): Promise<void> {
    const child = this.#streaming?.child;
    this.#streaming = undefined;
    this.#refuseAll(why);
    if (!child || child.exitCode !== null || child.signalCode !== null || child.pid === undefined) return;
    const ended = new Promise((resolve) => child.once('exit', resolve));
    child.kill('SIGTERM');
    const impatient = setTimeout(() => child.kill('SIGKILL'), END_MS);
    await ended;
    clearTimeout(impatient);
  }
}
