import { headOf } from './clean-jpeg.ts';

/** How a picture begins and ends (ITU-T T.81, B.1.1.3). */
const BEGIN = Buffer.from([0xff, 0xd8, 0xff]);
const END = Buffer.from([0xff, 0xd9]);

/** What follows one another without a word in between is cut into pictures; what is none is left out. */
export class JpegStream {
  readonly #mostBytes: number;
  #bytes = Buffer.alloc(0);
  /** How far the end has been looked for already. */
  #lookedTo = 0;

  /** No picture is larger than `mostBytes`. */
  constructor(mostBytes: number) {
    this.#mostBytes = mostBytes;
  }

  /** The pictures that are whole with this piece. */
  take(piece: Uint8Array): Uint8Array[] {
    this.#bytes = Buffer.concat([this.#bytes, piece]);
    const pictures: Uint8Array[] = [];
    for (;;) {
      const begin = this.#bytes.indexOf(BEGIN);
      // Two bytes may be the beginning of one.
      if (begin < 0) this.#drop(Math.max(0, this.#bytes.length - 2));
      else if (begin > 0) this.#drop(begin);
      const end = begin < 0 ? undefined : this.#endOfFirst();
      if (end === undefined) break;
      if (end > 0) pictures.push(new Uint8Array(this.#bytes.subarray(0, end)));
      this.#drop(Math.max(end, 2));
    }
    return pictures;
  }

  #drop(bytes: number): void {
    this.#bytes = this.#bytes.subarray(bytes);
    this.#lookedTo = 0;
  }

  /** Behind its last byte; 0 for what is no picture after all; undefined while more has to come. */
  #endOfFirst(): number | undefined {
    const head = headOf(this.#bytes);
    if (head === 'none') return 0;
    if (head === 'more') return this.#bytes.length > this.#mostBytes ? 0 : undefined;
    // Within the picture itself 0xFF is followed by 0 or a restart: the first other one is the end.
    const at = this.#bytes.indexOf(END, Math.max(head.scanAt, this.#lookedTo - 1));
    if (at >= 0) return at + 2;
    this.#lookedTo = this.#bytes.length;
    return this.#bytes.length > this.#mostBytes ? 0 : undefined;
  }
}
