import type { XConnection } from '../server/connection.ts';

const [STRING_WORDS, KIND_WORDS] = [256, 32];
const ANY_TYPE = 0;

/** What windows are called, hold, and are for, as they say themselves. A window that is gone has no title, holds nothing, and is nothing. */
export class WindowKinds {
  readonly #x: XConnection;

  constructor(x: XConnection) {
    this.#x = x;
  }

  /** Empty when it has none. */
  titleOf = async (window: number): Promise<string> =>
    (await this.#property(window, 'WM_NAME', STRING_WORDS)).toString('utf8');

  childrenOf(window: number): Promise<number[]> {
    return (
      this.#x
        .ask<{ children: number[] }>((cb) => this.#x.client.QueryTree(window, cb))
        .then(({ children }) => children)
        // Gone meanwhile: it shows nothing any longer.
        .catch(() => [])
    );
  }

  /** By its type (Extended Window Manager Hints 1.5, _NET_WM_WINDOW_TYPE), or that of a window it is the frame of. */
  async isNotification(window: number): Promise<boolean> {
    const notification = await this.#x.atom('_NET_WM_WINDOW_TYPE_NOTIFICATION');
    for (const one of [window, ...(await this.childrenOf(window))]) {
      const said = await this.#property(one, '_NET_WM_WINDOW_TYPE', KIND_WORDS);
      for (let at = 0; at + 4 <= said.length; at += 4) if (said.readUInt32LE(at) === notification) return true;
    }
    return false;
  }

  async #property(window: number, name: string, words: number): Promise<Buffer> {
    const atom = await this.#x.atom(name);
    return this.#x
      .ask<{ data: Buffer }>((cb) => this.#x.client.GetProperty(0, window, atom, ANY_TYPE, 0, words, cb))
      .then(({ data }) => data)
      .catch(() => Buffer.alloc(0)); // Gone meanwhile.
  }
}
