import x11, { type XClient } from 'x11';

/** A server that stands still for longer than all the tries together is as good as gone. One that is gone says so at once. */
const ANSWER_MS = 10_000;
const TRIES = 3;

export class DisplayGone extends Error {
  override readonly name = 'DisplayGone';
}

type Callback<T> = (error: Error | null, result: T) => void | boolean;

/** A connection to one X server, with promises, and with one place that knows when the server is gone. */
export class XConnection {
  readonly client: XClient;
  readonly root: number;
  readonly #gone = new Set<(why: Error) => void>();
  #goneWhy: Error | undefined;

  private constructor(client: XClient, root: number) {
    this.client = client;
    this.root = root;
    // One listener for each thing that follows the server's events; they end with the connection.
    client.setMaxListeners(50);
    const end = () => this.#end(new DisplayGone('the X server has closed the connection'));
    client.on('end', end);
    client.stream.on('close', end);
  }

  static async open(display: string, onError: (error: Error) => void): Promise<XConnection> {
    for (let tried = 1; tried <= TRIES; tried++) {
      const opened = await XConnection.#open(display, onError);
      if (opened) return opened;
    }
    throw new DisplayGone(`the X server ${display} does not answer`);
  }

  /** Undefined: it did not answer in time. */
  static async #open(display: string, onError: (error: Error) => void): Promise<XConnection | undefined> {
    type Opened = { client: XClient; screen: { root: number }[] };
    const answer = await new Promise<Opened | undefined>((resolve, reject) => {
      const timer = setTimeout(() => {
        // It has none before it is connected.
        (client as Partial<XClient>).stream?.destroy();
        resolve(undefined);
      }, ANSWER_MS);
      const client = x11.createClient({ display }, (error, opened) => {
        clearTimeout(timer);
        if (error) reject(new DisplayGone(`the X server ${display} cannot be reached: ${error.message}`));
        else resolve(opened);
      });
      client.on('error', (error) => {
        // Errors about windows of other programs that are gone meanwhile come here: they concern nobody.
        if (!/Bad (window|drawable|damage|region|match|access)|PICTURE argument/i.test(error.message)) onError(error);
      });
    });
    if (!answer) return undefined;
    const [screen] = answer.screen;
    if (!screen) throw new DisplayGone(`the X server ${display} has no screen`);
    // The library keeps what it learned of atoms for all servers together; each server numbers its own.
    answer.client.atoms = { ...answer.client.atoms };
    return new XConnection(answer.client, screen.root);
  }

  get isGone(): boolean {
    return this.#goneWhy !== undefined;
  }

  onGone(listener: (why: Error) => void): void {
    if (this.#goneWhy) listener(this.#goneWhy);
    else this.#gone.add(listener);
  }

  /** Runs one call with a callback; rejects when the server goes away meanwhile. */
  ask<T>(call: (callback: Callback<T>) => void): Promise<T> {
    if (this.#goneWhy) return Promise.reject(this.#goneWhy);
    return new Promise((resolve, reject) => {
      this.#gone.add(reject);
      call((error, result) => {
        this.#gone.delete(reject);
        if (error) reject(error);
        else resolve(result);
        // An answered error must not come up a second time as the client's own.
        return true;
      });
    });
  }

  extension<T>(
    name: 'shm' | 'damage' | 'fixes' | 'xtest' | 'xinput' | 'shape' | 'randr' | 'composite' | 'render',
  ): Promise<T> {
    return this.ask<unknown>((cb) => this.client.require(name, cb)) as Promise<T>;
  }

  atom(name: string): Promise<number> {
    return this.ask((cb) => this.client.InternAtom(false, name, cb));
  }

  size(): Promise<{ width: number; height: number }> {
    return this.ask((cb) => this.client.GetGeometry(this.root, cb));
  }

  /** What is asked meanwhile goes to the server in one writing. */
  together<T>(ask: () => T): T {
    const { stream } = this.client;
    stream.cork();
    try {
      return ask();
    } finally {
      stream.uncork();
    }
  }

  async flush(): Promise<void> {
    await this.ask((cb) => this.client.GetInputFocus(cb));
  }

  close(): void {
    this.#end(new DisplayGone('closed'));
    this.client.stream.destroy();
  }

  #end(why: Error): void {
    if (this.#goneWhy) return;
    this.#goneWhy = why;
    for (const listener of [...this.#gone]) listener(why);
    this.#gone.clear();
  }
}
