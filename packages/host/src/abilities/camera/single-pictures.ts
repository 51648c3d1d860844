import type { CameraPicture, SealedLine } from '@porch/client';
import type { Participant } from '@porch/core';
import { MAX_CAMERA_PICTURE_BYTES, type CameraMessage } from '@porch/wire';
import type { Kit } from '../../kit.ts';
import { UnderWay } from '../../under-way.ts';

/** Single pictures that are on their way to one technician. */
const MOST_UNDER_WAY = 2;
/** Each is told to the customer: nobody presses faster, and nobody floods a ledger. */
const LEAST_GAP_MS = 500;

/** Pictures in full size, taken when a technician asks, and told to the customer when they are. */
export class SinglePictures {
  readonly #kit: Kit;
  readonly #line: SealedLine<CameraMessage>;
  readonly #onTaken: () => void;
  readonly underWay: UnderWay;

  constructor(kit: Kit, line: SealedLine<CameraMessage>, onTaken: () => void) {
    this.#kit = kit;
    this.#line = line;
    this.#onTaken = onTaken;
    this.underWay = new UnderWay(kit, {
      permission: 'see-camera',
      most: MOST_UNDER_WAY,
      leastGapMs: LEAST_GAP_MS,
      sendPlain: (seat, plain, may) => line.sendPlain(seat, plain, may),
      sayRefused: (seat, pictureId, why) => line.send(seat, { type: 'refused', pictureId, why }),
    });
  }

  /** What was taken; undefined when the camera gave none. */
  give(from: Participant, pictureId: string, picture: CameraPicture | undefined): void {
    const lease = this.underWay.leaseOf(pictureId);
    if (!lease) return;
    const refuse = (why: string) => this.underWay.refuse(from.seat, pictureId, why);
    if (!lease.isRunning) return refuse('the customer has not allowed it');
    if (!picture) return refuse('the camera gave no picture');
    const { width, height, jpeg } = picture;
    if (jpeg.length > MAX_CAMERA_PICTURE_BYTES) return refuse('that picture is too large');
    this.underWay.hold(pictureId, jpeg);
    this.#onTaken();
    // The customer hears of it when it happens, and not when somebody keeps it.
    this.#kit.report((fact) => ({
      type: 'camera/tellPictureTaken',
      participantId: from.id,
      width,
      height,
      fact,
    }));
    this.#line.send(from.seat, { type: 'taken', pictureId, width, height, sizeBytes: jpeg.length });
  }
}
