import { z } from 'zod';
import { AppError } from '../errors.ts';
import { defineChannel } from '../sealed/channel.ts';

/** Whoever has asked for nothing for this long does not look any longer. */
export const LOOKING_MS = 5_000;
/** How often a viewer says at least that it looks, and the camera's side how it stands. */
export const SAY_LOOKING_MS = 1_000;
/** One of the moving pictures is no larger than this, and a single one in full size no larger than that. */
export const MAX_CAMERA_FRAME_BYTES = 384 * 1024;
export const MAX_CAMERA_PICTURE_BYTES = 16 * 1024 * 1024;
/** What anybody decodes of a camera, at most: sensors of telephones have fewer. Of moving pictures much less, since they come all the time. */
export const MAX_CAMERA_PIXELS = 64_000_000;
export const MAX_CAMERA_FRAME_PIXELS = 4_000_000;

const id = z.uuid();
const side = z.int().min(1).max(16_384);

/** `resting` is a pause with its reason; `none`: there is no camera, or it is not let be opened. */
export const CameraIs = z.enum(['opening', 'open', 'resting', 'none']);
export type CameraIs = z.infer<typeof CameraIs>;

/**
 * Technician ↔ the customer's side. Moving pictures are asked for one by one with `next`, so that no more are on the way
 * than the line brings; it comes again each second, and one that was lost does no harm. Single pictures come in pieces,
 * which whoever receives asks for with `want`.
 */
export const CameraMessage = z.discriminatedUnion('type', [
  /** `got`: the number of the newest picture that has arrived, 0 before the first. */
  z.strictObject({ type: z.literal('next'), got: z.int().min(0) }),
  z.strictObject({ type: z.literal('enough') }),
  z.strictObject({ type: z.literal('light'), isOn: z.boolean() }),
  z.strictObject({
    type: z.literal('cameraNow'),
    is: CameraIs,
    why: z.string().max(120),
    hasLight: z.boolean(),
    isLightOn: z.boolean(),
  }),
  z.strictObject({ type: z.literal('take'), pictureId: id }),
  z.strictObject({
    type: z.literal('taken'),
    pictureId: id,
    width: side,
    height: side,
    sizeBytes: z.int().min(1).max(MAX_CAMERA_PICTURE_BYTES),
  }),
  z.strictObject({ type: z.literal('want'), pictureId: id, offset: z.int().min(0) }),
  z.strictObject({ type: z.literal('refused'), pictureId: id, why: z.string().max(120) }),
]);
export type CameraMessage = z.infer<typeof CameraMessage>;

export const cameraChannel = defineChannel({
  name: 'camera',
  id: 15,
  line: 'bulk',
  message: CameraMessage,
  needs: { toCustomer: ['see-camera'], toDesk: ['see-camera'] },
  hasChunks: true,
});

export const CAMERA_FRAME_TAG = 2;
const HEAD_BYTES = 17;

/** A piece of one of the moving pictures: baseline JPEG (ITU-T T.81), whole when all of its pieces are there. */
export interface CameraFramePiece {
  /** Of the picture, from 1; it only grows. */
  readonly number: number;
  readonly width: number;
  readonly height: number;
  readonly sizeBytes: number;
  readonly offset: number;
  readonly bytes: Uint8Array;
}

/** | tag 2 | number (4) | width (2) | height (2) | size (4) | offset (4) | JPEG … | */
export function encodeCameraFrame(piece: CameraFramePiece): Uint8Array {
  const out = new Uint8Array(HEAD_BYTES + piece.bytes.length);
  const view = new DataView(out.buffer);
  out[0] = CAMERA_FRAME_TAG;
  view.setUint32(1, piece.number);
  view.setUint16(5, piece.width);
  view.setUint16(7, piece.height);
  view.setUint32(9, piece.sizeBytes);
  view.setUint32(13, piece.offset);
  out.set(piece.bytes, HEAD_BYTES);
  return out;
}

/** The bytes are a view. Throws MESSAGE_INVALID for what is no piece of a picture. */
export function decodeCameraFrame(plain: Uint8Array): CameraFramePiece {
  if (plain[0] !== CAMERA_FRAME_TAG || plain.length <= HEAD_BYTES) throw new AppError('MESSAGE_INVALID');
  const view = new DataView(plain.buffer, plain.byteOffset, plain.byteLength);
  const piece: CameraFramePiece = {
    number: view.getUint32(1),
    width: view.getUint16(5),
    height: view.getUint16(7),
    sizeBytes: view.getUint32(9),
    offset: view.getUint32(13),
    bytes: plain.subarray(HEAD_BYTES),
  };
  const isSound =
    piece.number > 0 &&
    piece.width > 0 &&
    piece.height > 0 &&
    piece.width * piece.height <= MAX_CAMERA_FRAME_PIXELS &&
    piece.sizeBytes <= MAX_CAMERA_FRAME_BYTES &&
    piece.offset + piece.bytes.length <= piece.sizeBytes;
  if (!isSound) throw new AppError('MESSAGE_INVALID');
  return piece;
}
