import { ReleaseManifest, SignedRelease } from '@porch/wire';
import { createReadStream, readFileSync, statSync, type ReadStream } from 'node:fs';
import { join } from 'node:path';

/** The release of Doorstep that this desk hands out, as its publisher made it. The publisher's key is not here. */
export class ReleaseShelf {
  readonly signed: SignedRelease;
  readonly manifest: ReleaseManifest;
  readonly #folder: string;

  /** Throws in words when the folder holds no whole release. */
  constructor(folder: string) {
    this.#folder = folder;
    this.signed = SignedRelease.parse(JSON.parse(readFileSync(join(folder, 'release.json'), 'utf8')));
    this.manifest = ReleaseManifest.parse(JSON.parse(this.signed.manifest));
    const { size } = statSync(join(folder, 'doorstep'));
    if (size !== this.manifest.sizeBytes)
      throw new Error(`${join(folder, 'doorstep')} has ${size} bytes, but ${this.manifest.sizeBytes} were signed`);
    statSync(join(folder, 'doorstep.gz'));
  }

  open(isCompressed: boolean): ReadStream {
    return createReadStream(join(this.#folder, isCompressed ? 'doorstep.gz' : 'doorstep'));
  }
}
