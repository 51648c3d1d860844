import { ByteReader, ByteWriter, readRuns, writeRuns } from './byte-io.ts';
import { gridFor, isGoodSize } from './grid.ts';
import { PictureError } from './picture-error.ts';

/** Which version of each tile somebody has, or ought to have: 0 for none. */
export interface VersionTable {
  readonly width: number;
  readonly height: number;
  readonly generation: number;
  readonly versions: Float64Array;
}

/** | width u16 | height u16 | generation u32 | highest version | runs of (highest - version) | */
export function encodeVersionTable({ width, height, generation, versions }: VersionTable): Uint8Array {
  const out = new ByteWriter();
  out.u16(width);
  out.u16(height);
  out.u32(generation);
  const highest = versions.reduce((most, v) => Math.max(most, v), 0);
  out.varint(highest);
  writeRuns(
    out,
    versions.map((version) => highest - version),
  );
  return out.bytes;
}

export function readVersionTable(reader: ByteReader): VersionTable {
  const width = reader.u16();
  const height = reader.u16();
  const generation = reader.u32();
  if (!isGoodSize(width, height)) throw new PictureError('a table of versions names an impossible size');
  const highest = reader.varint();
  const versions = readRuns(reader, gridFor(width, height).tileCount).map((age) => highest - age);
  if (versions.some((version) => version < 0))
    throw new PictureError('a table of versions names an impossible version');
  return { width, height, generation, versions };
}

export function decodeVersionTable(bytes: Uint8Array): VersionTable {
  const reader = new ByteReader(bytes);
  const table = readVersionTable(reader);
  if (reader.left) throw new PictureError('a table of versions has bytes too many');
  return table;
}
