import type { Turn } from './calls.ts';

/** The orientations of Exif (CIPA DC-008, tag 0x0112): how the picture has to be turned to stand upright. */
const orientations: Readonly<Record<Exclude<Turn, 'not'>, number>> = { right: 6, over: 3, left: 8 };

/** Says in front of the picture how it stands; the picture itself stays as it came, without a loss. */
export function standingUpright(jpeg: Uint8Array, turn: Turn): Uint8Array {
  if (turn === 'not') return jpeg;
  // A little-endian TIFF with one directory of one entry: SHORT, once.
  const tiff = Buffer.alloc(26);
  tiff.write('II*\0', 0, 'latin1');
  tiff.writeUInt32LE(8, 4);
  tiff.writeUInt16LE(1, 8);
  tiff.writeUInt16LE(0x0112, 10);
  tiff.writeUInt16LE(3, 12);
  tiff.writeUInt32LE(1, 14);
  tiff.writeUInt16LE(orientations[turn], 18);
  const body = Buffer.concat([Buffer.from('Exif\0\0', 'latin1'), tiff]);
  const head = Buffer.from([0xff, 0xe1, 0, body.length + 2]);
  return Buffer.concat([jpeg.subarray(0, 2), head, body, jpeg.subarray(2)]);
}
