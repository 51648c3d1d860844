import { TokenBucket } from './token-bucket.ts';
import { addressKey } from './addresses.ts';

/** Sockets that have not said who they are, in all: at one more the oldest of them goes. */
export const MAX_STRANGERS = 500;
/** And from one address: at one more the newcomer is refused. A whole office may be behind one. */
export const MAX_STRANGERS_PER_ADDRESS = 40;
/** New sockets that one address may open. */
const NEW_PER_SECOND = 40;
const NEW_AT_ONCE = 200;
/** Addresses that are remembered; the longest unheard go first. */
const MAX_ADDRESSES = 10_000;

/** Takes the stranger's place away; called twice it does nothing. */
export type Leave = () => void;

/** Counts sockets before they have shown who they are, so that strangers cost each other places and nobody else. */
export class Strangers {
  readonly #places = new Map<symbol, { readonly key: string; readonly end: () => void }>();
  readonly #perAddress = new Map<string, number>();
  readonly #buckets = new Map<string, TokenBucket>();

  get size(): number {
    return this.#places.size;
  }

  /** Undefined: refused. `end` is called when a later stranger needs the place. */
  enter(address: string, end: () => void): Leave | undefined {
    const key = addressKey(address);
    const here = this.#perAddress.get(key) ?? 0;
    if (!this.#bucketOf(key).take() || here >= MAX_STRANGERS_PER_ADDRESS) return undefined;
    if (this.#places.size >= MAX_STRANGERS) this.#endOldest();
    const place = Symbol(key);
    this.#places.set(place, { key, end });
    this.#perAddress.set(key, here + 1);
    return () => this.#leave(place);
  }

  #leave(place: symbol): void {
    const known = this.#places.get(place);
    if (!known) return;
    this.#places.delete(place);
    const left = (this.#perAddress.get(known.key) ?? 1) - 1;
    if (left > 0) this.#perAddress.set(known.key, left);
    else this.#perAddress.delete(known.key);
  }

  #endOldest(): void {
    const [oldest] = this.#places;
    if (!oldest) return;
    this.#leave(oldest[0]);
    oldest[1].end();
  }

  #bucketOf(key: string): TokenBucket {
    const known = this.#buckets.get(key) ?? new TokenBucket(NEW_PER_SECOND, NEW_AT_ONCE, () => performance.now());
    this.#buckets.delete(key);
    this.#buckets.set(key, known);
    if (this.#buckets.size > MAX_ADDRESSES) {
      const [longestUnheard] = this.#buckets.keys();
      if (longestUnheard !== undefined) this.#buckets.delete(longestUnheard);
    }
    return known;
  }
}
