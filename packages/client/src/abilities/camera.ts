import { consentHolderOf } from '@porch/core';
import { jpegSize } from '@porch/screen';
import {
  CAMERA_FRAME_TAG,
  cameraChannel,
  decodeCameraFrame,
  decodeChunk,
  decodeWords,
  MAX_CAMERA_PIXELS,
  randomId,
  SAY_LOOKING_MS,
  WORDS_TAG,
  type CameraFramePiece,
  type CameraIs,
  type CameraMessage,
  type Chunk,
} from '@porch/wire';
import { inBackground } from '../in-background.ts';
import { Listeners } from '../listeners.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { OpenAnswers } from '../open-answers.ts';
import { PieceReceiver } from '../pieces.ts';
import { SealedLine } from '../sealed-line.ts';
import { unlessUnreadable } from '../unless-unreadable.ts';
import { RefusedThere } from '../refused-there.ts';

/** One picture of a camera: baseline JPEG (ITU-T T.81), of the size that it says. */
export interface CameraPicture {
  readonly width: number;
  readonly height: number;
  readonly jpeg: Uint8Array<ArrayBuffer>;
}
/** How the camera stands; `is` is undefined while nobody has said so. */
export interface CameraNow {
  readonly is: CameraIs | undefined;
  readonly why: string;
  readonly hasLight: boolean;
  readonly isLightOn: boolean;
}
const unknown: CameraNow = { is: undefined, why: '', hasLight: false, isLightOn: false };

/** The customer's side said no, in its own words. */
export class CameraRefused extends RefusedThere {}

/** Gathers the pieces of one moving picture after the other; what is not whole when the next begins is dropped. */
export class FrameGatherer {
  #number = 0;
  #bytes = new Uint8Array(0);
  #received = 0;

  /** The picture, once its last piece is there. */
  take({ number, offset, sizeBytes, width, height, bytes }: CameraFramePiece): CameraPicture | undefined {
    if (offset === 0 && number > this.#number) {
      this.#number = number;
      this.#bytes = new Uint8Array(sizeBytes);
      this.#received = 0;
    }
    const isNext = number === this.#number && offset === this.#received && sizeBytes === this.#bytes.length;
    if (!isNext || offset + bytes.length > sizeBytes) return undefined;
    this.#bytes.set(bytes, offset);
    this.#received += bytes.length;
    return this.#received === sizeBytes ? { width, height, jpeg: this.#bytes } : undefined;
  }
}

/** What it says of itself decides what decoding it costs, so that is looked at before anybody decodes it. */
const isAsItSays = ({ width, height, jpeg }: CameraPicture): boolean => {
  const size = unlessUnreadable(() => jpegSize(jpeg));
  return size?.width === width && size.height === height && width * height <= MAX_CAMERA_PIXELS;
};

/** The technician's side of the camera: what is not looked at is not sent. */
export class TechnicianCamera {
  /** `arriving`: a part of a single picture is here, as a share of it. */
  readonly listeners = new Listeners<{ now: CameraNow; arriving: number }>();
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<CameraMessage>;
  readonly #show: (picture: CameraPicture) => Promise<void> | void;
  readonly #off: () => void;
  readonly #answers: OpenAnswers;
  readonly #coming = new Map<string, PieceReceiver>();
  #frames = new FrameGatherer();
  #got = 0;
  #now = unknown;
  #endSaying: (() => void) | undefined;
  #holderStart = '';

  /** The next picture is asked for once `show` is done with the last, so that whoever is slow is not flooded. */
  constructor(connection: LiveConnection, show: (picture: CameraPicture) => Promise<void> | void) {
    this.#connection = connection;
    this.#show = show;
    this.#answers = new OpenAnswers(connection.clock, (id) => {
      this.#coming.get(id)?.close();
      this.#coming.delete(id);
    });
    this.#line = new SealedLine(connection, cameraChannel);
    this.#off = this.#line.listenPlain(
      (from, plain) => this.#take(plain, from.startId),
      (from) => from.id === consentHolderOf(connection.state)?.id,
    );
  }

  get isOn(): boolean {
    return this.#endSaying !== undefined;
  }
  get now(): CameraNow {
    return this.#now;
  }

  setOn(isOn: boolean): void {
    if (isOn === this.isOn) return;
    this.#endSaying?.();
    this.#endSaying = isOn ? this.#connection.clock.every(SAY_LOOKING_MS, () => this.#sayNext()) : undefined;
    if (isOn) this.#sayNext();
    else {
      this.#tell({ type: 'enough' });
      this.#setNow(unknown);
    }
  }
  setLight(isOn: boolean): void {
    this.#tell({ type: 'light', isOn });
  }

  /** One in full size. Rejects with CameraRefused when the customer's side says no, with an AppError when nobody answers. */
  take(): Promise<CameraPicture> {
    const pictureId = randomId(this.#connection.random);
    return this.#answers.wait(pictureId, () => this.#tell({ type: 'take', pictureId }));
  }

  close(): void {
    this.setOn(false);
    this.#off();
    this.#answers.close();
  }

  #tell(message: CameraMessage): boolean {
    const holder = consentHolderOf(this.#connection.state);
    return holder !== undefined && this.#line.send(holder.seat, message);
  }
  #sayNext(): void {
    this.#tell({ type: 'next', got: this.#got });
  }
  #setNow(now: CameraNow): void {
    this.#now = now;
    this.listeners.emit('now', now);
  }

  #take(plain: Uint8Array, startId: string): void {
    if (startId !== this.#holderStart) {
      // Another program, or the same one anew: its numbers begin again.
      this.#holderStart = startId;
      this.#frames = new FrameGatherer();
      this.#got = 0;
    }
    if (plain[0] === CAMERA_FRAME_TAG) this.#takeFrame(plain);
    else if (plain[0] === WORDS_TAG) this.#takeWords(plain);
    else {
      const chunk = unlessUnreadable(() => decodeChunk(plain));
      if (chunk) this.#takePiece(chunk);
    }
  }

  #takePiece(chunk: Chunk): void {
    const coming = this.#coming.get(chunk.id);
    if (!coming) return;
    this.#answers.waitOn(chunk.id);
    coming.take(chunk);
    this.listeners.emit('arriving', coming.share);
  }

  #takeFrame(plain: Uint8Array): void {
    const piece = this.isOn ? unlessUnreadable(() => decodeCameraFrame(plain)) : undefined;
    const picture = piece && this.#frames.take(piece);
    if (picture) inBackground('showing the camera', this.#shown(picture, piece.number));
  }
  async #shown(picture: CameraPicture, number: number): Promise<void> {
    if (isAsItSays(picture)) await this.#show(picture);
    this.#got = Math.max(this.#got, number);
    if (this.isOn) this.#sayNext();
  }

  #takeWords(plain: Uint8Array): void {
    const message = unlessUnreadable(() => decodeWords(cameraChannel, plain));
    if (message?.type === 'cameraNow') {
      const { is, why, hasLight, isLightOn } = message;
      if (this.isOn) this.#setNow({ is, why, hasLight, isLightOn });
    } else if (message?.type === 'taken') this.#receive(message);
    else if (message?.type === 'refused') this.#answers.reject(message.pictureId, new CameraRefused(message.why));
  }

  #receive({ pictureId, width, height, sizeBytes }: Extract<CameraMessage, { type: 'taken' }>): void {
    if (!this.#answers.has(pictureId) || this.#coming.has(pictureId)) return;
    const receiver = new PieceReceiver(
      sizeBytes,
      (offset) => this.#tell({ type: 'want', pictureId, offset }),
      (bytes) => {
        // Asking for what is behind the end says that everything is here.
        this.#tell({ type: 'want', pictureId, offset: bytes.length });
        const picture: CameraPicture = { width, height, jpeg: new Uint8Array(bytes) };
        if (isAsItSays(picture)) this.#answers.resolve(pictureId, picture);
        else this.#answers.reject(pictureId, new CameraRefused('what arrived is no such picture'));
      },
      this.#connection.clock,
    );
    this.#coming.set(pictureId, receiver);
  }
}
