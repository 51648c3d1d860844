import type { PictureMessage } from '@porch/wire';
import type { SealedLine } from './sealed-line.ts';

/**
 * What one start of a program says to those who look at its pictures. Several pictures may follow each other in it; their
 * epochs only grow, since a key belongs to a start and an epoch.
 */
export class PictureLine {
  readonly #line: SealedLine<PictureMessage>;
  #lastEpoch = 0;

  constructor(line: SealedLine<PictureMessage>) {
    this.#line = line;
  }

  /** The last epoch that anybody was told of; 0 before the first. */
  get lastEpoch(): number {
    return this.#lastEpoch;
  }

  send(seat: number, message: PictureMessage): boolean {
    if (message.type === 'epochKey') this.#lastEpoch = Math.max(this.#lastEpoch, message.epoch);
    return this.#line.send(seat, message);
  }
}
