import { signBytesWith, signKeyOf } from '@porch/wire';

/** The keys by which computers know this desk's leave for administrator rights. */
export class RightsKeys {
  readonly #seeds: ReadonlyMap<string, string>;

  /** `seeds`: 32 bytes each, the newest first. Computers that have the key of an older one go on taking its leave. */
  constructor(seeds: readonly Buffer[]) {
    const hex = seeds.map((seed) => seed.toString('hex'));
    this.#seeds = new Map(hex.map((seed) => [signKeyOf(seed), seed]));
  }

  /** What is installed on computers from now on. */
  get newest(): string {
    const [key = ''] = this.#seeds.keys();
    return key;
  }
  /** Undefined for a key that is not this desk's. */
  sign(deskKey: string, bytes: Uint8Array): string | undefined {
    const seed = this.#seeds.get(deskKey);
    return seed === undefined ? undefined : signBytesWith(seed, bytes);
  }
}
