import x11, { type XEvent } from 'x11';
import type { Box } from './box.ts';
import { giveFocusBack, isGivenFocus, noteFocus } from './own-focus.ts';
import { noteClosed, noteRaised } from './own-windows.ts';
import { paint, type Painting } from './painting.ts';
import { renderSvg } from './text-picture.ts';
import type { XConnection } from './connection.ts';

/** Windows that fight for the top are raised again at most this often. */
const RAISE_MS = 150;
const ATOM_STRING = 31;

const maskOf = (...names: readonly string[]): number =>
  names.reduce((mask, name) => mask | (x11.eventMask[name] ?? 0), 0);

/** A window of ours, above everything, that no window manager moves or covers. */
export class OwnWindow {
  readonly id: number;
  readonly #x: XConnection;
  readonly #gc: number;
  readonly #listener: (event: XEvent) => void;
  #picture: Painting | undefined;
  #raisedAtMs = 0;
  #raise: ReturnType<typeof setTimeout> | undefined;

  constructor(
    x: XConnection,
    name: string,
    box: Box,
    background: number,
    { onEvent = () => undefined, takesKeys = false }: { onEvent?(event: XEvent): void; takesKeys?: boolean } = {},
  ) {
    this.#x = x;
    const { client } = x;
    if (!takesKeys) noteFocus(x);
    this.id = client.AllocID();
    client.CreateWindow(this.id, x.root, box.x, box.y, box.width, box.height, 0, 0, 0, 0, {
      overrideRedirect: 1,
      backgroundPixel: background,
      eventMask: maskOf('Exposure', 'VisibilityChange', ...(takesKeys ? [] : ['FocusChange'])),
    });
    client.ChangeProperty(0, this.id, 39, ATOM_STRING, 8, Buffer.from(name));
    this.#gc = client.AllocID();
    client.CreateGC(this.#gc, this.id, {});
    this.#listener = (event) => {
      if (event.wid !== this.id) return;
      if (event.name === 'Expose') this.#paint();
      else if (event.name === 'VisibilityNotify' && event.visibility !== 0) this.#raiseSoon();
      else if (event.name !== 'FocusIn' && event.name !== 'FocusOut') onEvent(event);
      else if (isGivenFocus(event)) giveFocusBack(x);
    };
    client.on('event', this.#listener);
    client.MapWindow(this.id);
    client.RaiseWindow(this.id);
    noteRaised(x, this.id);
  }

  async draw(svg: string): Promise<void> {
    this.#picture = await renderSvg(svg);
    this.#paint();
  }

  close(): void {
    clearTimeout(this.#raise);
    noteClosed(this.#x, this.id);
    this.#x.client.removeListener('event', this.#listener);
    if (!this.#x.isGone) this.#x.client.DestroyWindow(this.id);
  }

  #paint(): void {
    if (this.#picture && !this.#x.isGone) paint(this.#x, this.id, this.#gc, this.#picture);
  }

  #raiseSoon(): void {
    clearTimeout(this.#raise);
    this.#raise = setTimeout(
      () => {
        this.#raisedAtMs = Date.now();
        if (this.#x.isGone) return;
        this.#x.client.RaiseWindow(this.id);
        noteRaised(this.#x, this.id);
      },
      Math.max(0, this.#raisedAtMs + RAISE_MS - Date.now()),
    );
  }
}
