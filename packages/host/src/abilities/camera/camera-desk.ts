import { inBackground, SealedLine, unlessUnreadable, type CameraPicture } from '@porch/client';
import { presentOf, type Participant } from '@porch/core';
import { cameraChannel, decodeWords, MAX_CAMERA_FRAME_BYTES, SAY_LOOKING_MS, type CameraMessage } from '@porch/wire';
import { speechOf } from '@porch/words';
import type { BannerLine, Kit, Running } from '../../kit.ts';
import type { CameraPort, CameraWish } from '../../ports/camera-port.ts';
import { ToldOnce } from '../../told-once.ts';
import { CameraViewer } from './camera-viewer.ts';
import { HeldCamera } from './held-camera.ts';
import { SinglePictures } from './single-pictures.ts';

/** Who looks through the camera here, and what each of them is sent. The camera is closed while nobody does. */
export class CameraDesk implements Running {
  readonly #kit: Kit;
  readonly #port: CameraPort;
  readonly #line: SealedLine<CameraMessage>;
  readonly #camera: HeldCamera;
  readonly #singles: SinglePictures;
  readonly #viewers = new Map<number, CameraViewer>();
  /** Of whom the ledger has heard since they may. */
  readonly #told: ToldOnce;
  readonly #offs: (() => void)[];
  /** Asked for, and waiting for the camera to be open. */
  #waiting: (() => void)[] = [];
  #isBusy = false;
  #taken = 0;
  #endWaiting: (() => void) | undefined;
  #endLooking: (() => void) | undefined;

  constructor(kit: Kit, port: CameraPort) {
    this.#kit = kit;
    this.#port = port;
    this.#told = new ToldOnce(kit.held, 'see-camera');
    this.#line = new SealedLine(kit.connection, cameraChannel);
    this.#camera = new HeldCamera(port, kit.time, kit.log, () => this.#cameraChanged());
    this.#singles = new SinglePictures(kit, this.#line, () => this.#taken++);
    this.#offs = [
      this.#line.listenPlain(
        (from, plain) => this.#hear(from, plain),
        (from) => from.side === 'desk' && !from.isGone && kit.held.holds('see-camera', from.signKey),
      ),
      port.onWish?.((wish) => this.#wished(wish)) ?? (() => undefined),
    ];
  }

  changed(): void {
    const { time } = this.#kit;
    this.#told.follow();
    for (const [seat, viewer] of this.#viewers) if (viewer.isGone(time.nowMs())) this.#viewers.delete(seat);
    this.#singles.underWay.check();
    this.#camera.setWanted(this.#singles.underWay.isAnyAwaited || this.#lookers.length > 0);
    this.#lookAgain();
    for (const viewer of this.#viewers.values()) this.#tellNow(viewer);
    this.#show();
    this.#pump();
  }

  /** Whoever went without a word does not look any longer; looked at only as long as there is anybody. */
  #lookAgain(): void {
    if (this.#viewers.size || this.#singles.underWay.areAny)
      this.#endLooking ??= this.#kit.time.every(SAY_LOOKING_MS, () => this.changed());
    else {
      this.#endLooking?.();
      this.#endLooking = undefined;
    }
  }

  banner(soFar: BannerLine): BannerLine {
    return this.#isSeen ? { ...soFar, besides: [...soFar.besides, this.#kit.words.camera.sees] } : soFar;
  }
  barAlone(): { who: string; what: string } | undefined {
    if (!this.#isSeen) return undefined;
    const { connection, words } = this.#kit;
    const names = presentOf(connection.state, 'desk')
      .filter(({ seat }) => this.#lookers.some((viewer) => viewer.seat === seat))
      .map(({ name }) => name ?? words.kernel.technician);
    return { who: speechOf(connection.state.language).list(names), what: words.camera.sees };
  }

  close(): void {
    for (const off of this.#offs) off();
    this.#endWaiting?.();
    this.#endLooking?.();
    this.#viewers.clear();
    this.#singles.underWay.close();
    this.#camera.setWanted(false);
  }

  /** Those who may see it in this very moment. */
  get #lookers(): readonly CameraViewer[] {
    return [...this.#viewers.values()].filter(({ lease }) => lease.isRunning);
  }
  get #isSeen(): boolean {
    return this.#camera.is === 'open' && this.#lookers.length > 0;
  }

  #hear(from: Participant, plain: Uint8Array): void {
    const message = unlessUnreadable(() => decodeWords(cameraChannel, plain));
    if (!message) return;
    if (message.type === 'next') this.#look(from, message.got);
    else if (message.type === 'enough') {
      // Closed by the second, so that whoever changes their mind all the time opens nothing all the time.
      this.#viewers.delete(from.seat);
    } else if (message.type === 'light') {
      if (this.#kit.held.may('see-camera', from.signKey)) this.#camera.setLight(message.isOn);
    } else if (message.type === 'take') this.#take(from, message.pictureId);
    else if (message.type === 'want') this.#singles.underWay.send(from, message.pictureId, message.offset);
  }

  #wished(wish: CameraWish): void {
    if (wish === 'light') this.#camera.setLight(!this.#camera.isLightOn);
    else this.#camera.tryAgain();
  }

  #look(from: Participant, got: number): void {
    const nowMs = this.#kit.time.nowMs();
    const known = this.#viewers.get(from.seat);
    if (known && known.lease.state.name !== 'over') {
      known.hear(got, nowMs);
      return this.#pump();
    }
    const lease = this.#kit.held.during('see-camera', from.signKey);
    this.#viewers.set(from.seat, new CameraViewer(from.seat, lease, nowMs));
    this.#camera.tryAgain();
    this.changed();
  }

  #take(from: Participant, pictureId: string): void {
    if (!this.#singles.underWay.begin(from, pictureId)) return;
    this.changed();
    const take = async () => {
      this.#singles.give(from, pictureId, await this.#camera.fullSize());
      this.changed();
    };
    // What it comes to is told when the camera is open, or known not to be.
    this.#waiting.push(() => inBackground('taking a picture', take()));
    this.#takeWaiting();
  }
  #takeWaiting(): void {
    if (this.#camera.is === 'opening') return;
    const due = this.#waiting;
    this.#waiting = [];
    for (const take of due) take();
  }

  #cameraChanged(): void {
    if (this.#camera.is === undefined) this.#taken = 0;
    for (const viewer of this.#viewers.values()) this.#tellNow(viewer);
    this.#show();
    this.#kit.changed();
    this.#takeWaiting();
    this.#pump();
  }
  #show(): void {
    const { is, hasLight, isLightOn } = this.#camera;
    const viewers = this.#lookers.map(({ seat }) => seat);
    this.#port.show?.({ is, hasLight, isLightOn, viewers, taken: this.#taken });
  }

  /** Said when it changes, and now and then again. */
  #tellNow(viewer: CameraViewer): void {
    const { state } = viewer.lease;
    if (state.name === 'over') return;
    const isResting = state.name === 'paused';
    const now: CameraMessage = {
      type: 'cameraNow',
      is: isResting ? 'resting' : (this.#camera.is ?? 'opening'),
      why: isResting ? state.why.slice(0, 120) : '',
      hasLight: this.#camera.hasLight,
      isLightOn: this.#camera.isLightOn,
    };
    viewer.tell(now, this.#kit.time.nowMs(), () => this.#line.send(viewer.seat, now));
  }

  /** One picture for all who can take one now, in the size that the slowest of them gets in time. */
  #pump(): void {
    if (this.#isBusy || this.#camera.is !== 'open') return;
    const nowMs = this.#kit.time.nowMs();
    const ready = this.#lookers.flatMap((viewer) => viewer.readyAtMs() ?? []);
    if (!ready.length) return;
    const waitMs = Math.min(...ready) - nowMs;
    if (waitMs > 0) {
      this.#endWaiting ??= this.#kit.time.after(waitMs, () => {
        this.#endWaiting = undefined;
        this.#pump();
      });
      return;
    }
    this.#isBusy = true;
    const longestPixels = Math.min(...this.#lookers.map(({ pace }) => pace.longestPixels));
    this.#camera
      .next(longestPixels)
      .then((picture) => picture && this.#send(picture, longestPixels))
      .catch((error: unknown) => this.#kit.log.error({ err: error }, 'the camera could not be shown'))
      .finally(() => {
        this.#isBusy = false;
        this.#pump();
      });
  }

  #send(picture: CameraPicture, longestPixels: number): void {
    const nowMs = this.#kit.time.nowMs();
    const isTooLarge = picture.jpeg.length > MAX_CAMERA_FRAME_BYTES;
    for (const viewer of this.#lookers) {
      const readyAtMs = viewer.readyAtMs();
      if (isTooLarge) viewer.pace.tooLarge();
      else if (readyAtMs !== undefined && readyAtMs <= nowMs) {
        viewer.send(picture, longestPixels, nowMs, {
          messageBytes: this.#line.messageBytes,
          send: (plain, may) => this.#line.sendPlain(viewer.seat, plain, may),
        });
        this.#tellSeen(viewer.seat);
      }
    }
  }

  /** Once for each time that somebody may. */
  #tellSeen(viewerSeat: number): void {
    const who = presentOf(this.#kit.connection.state, 'desk').find(({ seat }) => seat === viewerSeat);
    if (!who || !this.#told.isFirst(who.signKey)) return;
    this.#kit.report((fact) => ({ type: 'camera/tellSeen', participantId: who.id, fact }));
  }
}
