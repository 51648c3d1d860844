import { FrameGatherer } from '@porch/client';
import { runs } from '@porch/testkit';
import {
  AppError,
  decodeCameraFrame,
  encodeCameraFrame,
  MAX_CAMERA_FRAME_BYTES,
  type CameraFramePiece,
} from '@porch/wire';
import fc from 'fast-check';
import { expect, it } from 'vitest';

const piecesOf = (number: number, jpeg: Uint8Array, pieceBytes: number): CameraFramePiece[] =>
  Array.from({ length: Math.ceil(jpeg.length / pieceBytes) }, (_, i) => ({
    ...{ number, width: 16, height: 9, sizeBytes: jpeg.length, offset: i * pieceBytes },
    bytes: jpeg.subarray(i * pieceBytes, (i + 1) * pieceBytes),
  }));

it('gives each picture whole or not at all, once, and none older than the last, whatever is lost, doubled or late', () => {
  const pictures = fc.array(fc.uint8Array({ minLength: 1, maxLength: 90 }), { minLength: 1, maxLength: 8 });
  fc.assert(
    fc.property(pictures, fc.integer({ min: 1, max: 40 }), fc.array(fc.nat(60)), (jpegs, pieceBytes, order) => {
      const pieces = jpegs.flatMap((jpeg, i) => piecesOf(i + 1, jpeg, pieceBytes));
      const gatherer = new FrameGatherer();
      let last = 0;
      for (const at of order) {
        const piece = pieces[at % pieces.length] as CameraFramePiece;
        const picture = gatherer.take(decodeCameraFrame(encodeCameraFrame(piece)));
        if (!picture) continue;
        expect(piece.number).toBeGreaterThan(last);
        last = piece.number;
        expect(picture.jpeg).toEqual(new Uint8Array(jpegs[piece.number - 1] as Uint8Array));
      }
      // In order and without a loss every one arrives.
      const whole = new FrameGatherer();
      expect(pieces.flatMap((piece) => whole.take(piece)?.jpeg ?? [])).toEqual(
        jpegs.map((jpeg) => new Uint8Array(jpeg)),
      );
    }),
    runs(),
  );
});

it('refuses what is no piece of a picture, and takes no memory for what says that it is huge', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 60 }), (bytes) => {
      bytes[0] = 2;
      try {
        const piece = decodeCameraFrame(bytes);
        expect(piece.sizeBytes).toBeLessThanOrEqual(MAX_CAMERA_FRAME_BYTES);
        expect(piece.offset + piece.bytes.length).toBeLessThanOrEqual(piece.sizeBytes);
      } catch (error) {
        expect(error).toBeInstanceOf(AppError);
      }
    }),
    runs(),
  );
  const [piece] = piecesOf(1, new Uint8Array(10), 10) as [CameraFramePiece];
  const refused = (change: Partial<CameraFramePiece>) => () =>
    decodeCameraFrame(encodeCameraFrame({ ...piece, ...change }));
  for (const change of [
    { sizeBytes: 2 ** 31 },
    { offset: 1 },
    { number: 0 },
    { width: 0 },
    { width: 60_000, height: 60_000 },
    { bytes: new Uint8Array(0) },
  ])
    expect(refused(change)).toThrow(AppError);
});
