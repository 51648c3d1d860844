import { LocalPicture, OLD_MS, WatchedPictures } from '@porch/client';
import { decodeJpeg, inflate } from '@porch/client/node';
import { AppError } from '@porch/wire';
import { writeFile } from 'node:fs/promises';
import { PNG } from 'pngjs';
import { defineKept, type KeeperKit } from '../cli-ability.ts';
import { pictureCalls } from './calls.ts';

/** The picture of the first display, kept up to date. */
class KeptPicture {
  readonly #kit: KeeperKit;
  readonly #look: WatchedPictures;
  readonly #picture: LocalPicture;

  constructor(kit: KeeperKit) {
    this.#kit = kit;
    this.#look = new WatchedPictures(kit.connection);
    this.#picture = new LocalPicture(kit.connection, 0, { inflate, decodePhoto: decodeJpeg });
    this.#look.open(this.#picture);
    for (const name of ['painted', 'checked'] as const) this.#picture.listeners.on(name, () => kit.changed());
    kit.connection.on('entry', () => {
      if (!kit.may('view-screen')) this.#look.forget();
    });
  }

  get aim() {
    return this.#picture.aim;
  }

  /** The displays there are, with their sizes. */
  get displays() {
    return this.#look.displays;
  }

  status() {
    const { grid, isComplete } = this.#picture.viewer.picture;
    const { ageMs } = this.#picture.standing;
    return { picture: grid && { width: grid.width, height: grid.height, isComplete, ageMs } };
  }

  async save(file: string, waitMs: number) {
    this.#kit.need('view-screen');
    // Complete, and vouched for by the source just now: a frozen picture is not saved as if it were today's.
    const isFresh = () =>
      (this.#picture.standing.ageMs ?? Infinity) < OLD_MS && this.#picture.viewer.picture.isComplete;
    const isGood = await this.#kit.until(isFresh, waitMs);
    const { grid, rgba } = this.#picture.viewer.picture;
    if (!grid || !isGood) throw new AppError('NOT_PRESENT');
    const png = new PNG({ width: grid.width, height: grid.height });
    png.data = Buffer.from(rgba);
    await writeFile(file, PNG.sync.write(png));
    return { file, width: grid.width, height: grid.height };
  }

  close(): void {
    this.#look.close();
  }
}

export const keptPicture = defineKept({
  name: 'picture',
  calls: pictureCalls,
  begin: (kit) => new KeptPicture(kit),
  answer: { savePicture: (kept, { file, waitMs }) => kept.save(file, waitMs) },
});
