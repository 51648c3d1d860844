import { sendPieces, type CameraPicture, type SealedLine } from '@porch/client';
import type { Participant } from '@porch/core';
import { encodeChunk, MAX_CAMERA_PICTURE_BYTES, type CameraMessage } from '@porch/wire';
import type { Lease } from '../../consent/held.ts';
import type { Kit } from '../../kit.ts';

/** Single pictures that are on their way to one technician. */
const MOST_UNDER_WAY = 2;
/** Each is told to the customer: nobody presses faster, and nobody floods a ledger. */
const LEAST_GAP_MS = 500;
/** Whoever asks for nothing of one for this long does not want it any longer. */
const STALE_MS = 60_000;

interface UnderWay {
  readonly seat: number;
  readonly lease: Lease;
  heardAtMs: number;
  /** Undefined while it is being taken. */
  jpeg?: Uint8Array;
}

/** Pictures in full size, taken when a technician asks, and told to the customer when they are. */
export class SinglePictures {
  readonly #kit: Kit;
  readonly #line: SealedLine<CameraMessage>;
  readonly #onTaken: () => void;
  readonly #underWay = new Map<string, UnderWay>();
  #askedAtMs = -Infinity;

  constructor(kit: Kit, line: SealedLine<CameraMessage>, onTaken: () => void) {
    this.#kit = kit;
    this.#line = line;
    this.#onTaken = onTaken;
  }

  /** Whether one is being taken: the camera is wanted for it, whether anybody looks or not. */
  get isTaking(): boolean {
    return [...this.#underWay.values()].some(({ jpeg, lease }) => !jpeg && lease.isRunning);
  }

  get areAny(): boolean {
    return this.#underWay.size > 0;
  }

  /** Ends what is on its way without leave any longer, or unwanted. */
  check(): void {
    const nowMs = this.#kit.time.nowMs();
    for (const [id, { lease, heardAtMs }] of this.#underWay)
      if (lease.state.name === 'over' || nowMs - heardAtMs > STALE_MS) this.#underWay.delete(id);
  }
  close(): void {
    this.#underWay.clear();
  }

  /** Whether it may be taken: then `take` follows as soon as the camera is open. */
  ask(from: Participant, pictureId: string): boolean {
    this.check();
    if (this.#underWay.has(pictureId)) return false;
    const lease = this.#kit.held.during('see-camera', from.signKey);
    const theirs = [...this.#underWay.values()].filter(({ seat }) => seat === from.seat);
    if (lease.state.name === 'paused') this.#refuse(from.seat, pictureId, lease.state.why);
    else if (!lease.isRunning) this.#refuse(from.seat, pictureId, 'the customer has not allowed it');
    else if (theirs.length >= MOST_UNDER_WAY || this.#kit.time.nowMs() - this.#askedAtMs < LEAST_GAP_MS)
      this.#refuse(from.seat, pictureId, 'too many are on their way');
    else {
      this.#askedAtMs = this.#kit.time.nowMs();
      this.#underWay.set(pictureId, { seat: from.seat, lease, heardAtMs: this.#kit.time.nowMs() });
      return true;
    }
    return false;
  }

  /** What was taken; undefined when the camera gave none. */
  give(from: Participant, pictureId: string, picture: CameraPicture | undefined): void {
    const known = this.#underWay.get(pictureId);
    if (!known) return;
    if (!known.lease.isRunning) return this.#refuse(from.seat, pictureId, 'the customer has not allowed it');
    if (!picture) return this.#refuse(from.seat, pictureId, 'the camera gave no picture');
    const { width, height, jpeg } = picture;
    if (jpeg.length > MAX_CAMERA_PICTURE_BYTES) return this.#refuse(from.seat, pictureId, 'that picture is too large');
    known.jpeg = jpeg;
    known.heardAtMs = this.#kit.time.nowMs();
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

  send(from: Participant, pictureId: string, offset: number): void {
    const known = this.#underWay.get(pictureId);
    if (known?.seat !== from.seat || !known.jpeg || offset > known.jpeg.length) return;
    const { lease, jpeg } = known;
    known.heardAtMs = this.#kit.time.nowMs();
    // Whoever asks for what is behind the end has everything.
    if (offset === jpeg.length) {
      this.#underWay.delete(pictureId);
      return;
    }
    const may = () => lease.isRunning;
    sendPieces(jpeg, pictureId, offset, (chunk) => may() && this.#line.sendPlain(from.seat, encodeChunk(chunk), may));
  }

  #refuse(seat: number, pictureId: string, why: string): void {
    this.#underWay.delete(pictureId);
    this.#line.send(seat, { type: 'refused', pictureId, why: why.slice(0, 120) });
  }
}
