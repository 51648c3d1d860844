import { loadExtensions, XConnection } from '@porch/doorstep';

/** Counts how often somebody takes the clipboard of a display, as the X server itself tells it. */
export class CopyCounter {
  readonly #x: XConnection;
  count = 0;

  private constructor(x: XConnection) {
    this.#x = x;
  }

  static async at(display: string): Promise<CopyCounter> {
    const x = await XConnection.open(display, () => undefined);
    const { fixes } = await loadExtensions(x);
    const clipboard = await x.atom('CLIPBOARD');
    const counter = new CopyCounter(x);
    x.client.on('event', (event) => {
      if (event.name === 'SelectionNotify' && event['selection'] === clipboard) counter.count++;
    });
    fixes.SelectSelectionInput(x.root, clipboard, 1);
    await x.flush();
    return counter;
  }

  close(): void {
    this.#x.close();
  }
}
