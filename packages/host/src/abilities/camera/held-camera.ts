import type { CameraPicture } from '@porch/client';
import type { CameraIs, Clock } from '@porch/wire';
import type { HostLog } from '../../kit.ts';
import type { CameraPort, OpenCamera } from '../../ports/camera-port.ts';

/** A camera that gives nothing for this long gives nothing any longer. */
const FROZEN_MS = 8_000;
/** Nobody has it opened more often than this. */
const TRY_AGAIN_MS = 2_000;

/** The camera, open as long as it is wanted. One that failed is opened again when it is wanted anew, and not by itself. */
export class HeldCamera {
  readonly #port: CameraPort;
  readonly #time: Clock;
  readonly #log: HostLog;
  readonly #onChanged: () => void;
  #is: CameraIs | undefined;
  #camera: OpenCamera | undefined;
  #isLightTurning = false;
  #lightWished: boolean | undefined;
  #openedAtMs = -Infinity;
  /** Counts openings: what an earlier one still says is nobody's concern. */
  #opening = 0;

  constructor(port: CameraPort, time: Clock, log: HostLog, onChanged: () => void) {
    this.#port = port;
    this.#time = time;
    this.#log = log;
    this.#onChanged = onChanged;
  }

  /** Undefined while nobody wants it. */
  get is(): CameraIs | undefined {
    return this.#is;
  }
  get hasLight(): boolean {
    return this.#camera?.hasLight ?? false;
  }
  get isLightOn(): boolean {
    return this.#camera?.isLightOn ?? false;
  }

  setWanted(isWanted: boolean): void {
    if (isWanted === (this.#is !== undefined)) return;
    if (isWanted) this.#open();
    else this.#close(undefined);
  }
  tryAgain(): void {
    if (this.#is === 'none' && this.#time.nowMs() - this.#openedAtMs > TRY_AGAIN_MS) this.#open();
  }

  /** One wish after the other: the newest counts. */
  setLight(isOn: boolean): void {
    this.#lightWished = isOn;
    const camera = this.#camera;
    if (!camera?.hasLight || isOn === camera.isLightOn || this.#isLightTurning) return;
    this.#isLightTurning = true;
    camera
      .setLight(isOn)
      .then(
        () => this.#camera === camera && this.#onChanged(),
        (error: unknown) => this.#log.warn({ err: error }, 'the light of the camera does not do as it is told'),
      )
      .finally(() => {
        this.#isLightTurning = false;
        // What was told once is not told again, whether the light did so or not.
        const wished = this.#lightWished;
        if (this.#camera === camera && wished !== undefined && wished !== isOn) this.setLight(wished);
      });
  }

  /** A fresh picture. Undefined when the camera is not open, or went meanwhile. */
  next(longestPixels: number): Promise<CameraPicture | undefined> {
    return this.#from((camera) => camera.next(longestPixels));
  }
  fullSize(): Promise<CameraPicture | undefined> {
    return this.#from((camera) => camera.fullSize());
  }

  async #from(give: (camera: OpenCamera) => Promise<CameraPicture>): Promise<CameraPicture | undefined> {
    const camera = this.#camera;
    if (!camera) return undefined;
    let endWaiting: (() => void) | undefined;
    const frozen = new Promise<never>((_, reject) => {
      endWaiting = this.#time.after(FROZEN_MS, () => reject(new Error('the camera gives no pictures any longer')));
    });
    try {
      const picture = await Promise.race([give(camera), frozen]);
      return this.#camera === camera ? picture : undefined;
    } catch (error) {
      if (this.#camera !== camera) return undefined;
      this.#log.warn({ err: error }, 'the camera failed');
      this.#close('none');
      return undefined;
    } finally {
      endWaiting?.();
    }
  }

  #open(): void {
    const opening = ++this.#opening;
    this.#openedAtMs = this.#time.nowMs();
    this.#is = 'opening';
    const isThis = () => opening === this.#opening;
    this.#port
      .open(() => isThis() && this.#close('none'))
      .then(
        (camera) => {
          if (!isThis()) return camera.close();
          this.#camera = camera;
          this.#is = 'open';
          this.#onChanged();
        },
        (error: unknown) => {
          if (!isThis()) return;
          this.#log.warn({ err: error }, 'the camera cannot be opened');
          this.#close('none');
        },
      );
    this.#onChanged();
  }

  #close(is: 'none' | undefined): void {
    this.#opening++;
    this.#camera?.close();
    this.#camera = undefined;
    this.#lightWished = undefined;
    this.#is = is;
    this.#onChanged();
  }
}
