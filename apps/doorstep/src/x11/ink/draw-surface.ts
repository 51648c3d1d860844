import { inUnit, type Listeners } from '@porch/client';
import { MAX_MARK_POINTS, type Mark, type MarkMessage } from '@porch/wire';
import type { XEvent, XInput } from 'x11';
import { stackBelowOwn } from '../server/own-windows.ts';
import type { XConnection } from '../server/connection.ts';
import { OwnDevices } from '../server/own-devices.ts';
import type { OwnTool, Wishes } from '../wishes.ts';

const INPUT_ONLY = 2;
/** Points are told this often: as fast as anybody can see. */
const TELL_MS = 16;

/**
 * While the person here draws, their pointer draws instead of clicking: a window that is not to be seen lies over
 * everything but our own, and takes what real devices do there.
 */
export class DrawSurface {
  readonly window: number;
  readonly #x: XConnection;
  readonly #tell: (message: MarkMessage) => void;
  readonly #offs: (() => void)[];
  #own: OwnDevices | undefined;
  #size = { width: 1, height: 1 };
  #tool: OwnTool = 'pen';
  #id = 0;
  #from: Mark['points'][number] | undefined;
  #waiting: Mark['points'] = [];
  #timer: ReturnType<typeof setTimeout> | undefined;

  constructor(x: XConnection, xinput: XInput, wishes: Listeners<Wishes>, tell: (message: MarkMessage) => void) {
    this.#x = x;
    this.#tell = tell;
    const { client, root } = x;
    this.window = client.AllocID();
    // As large as any screen can be: it need not follow what the screen becomes.
    client.CreateWindow(this.window, root, 0, 0, 32_767, 32_767, 0, 0, INPUT_ONLY, 0, { overrideRedirect: 1 });
    stackBelowOwn(x, [this.window]);
    const { ButtonPress = 0, ButtonRelease = 0, Motion = 0 } = xinput.EventMask;
    xinput.XISelectEvents(this.window, [{ deviceId: 1, mask: ButtonPress | ButtonRelease | Motion }]);
    client.MapWindow(this.window);
    const listener = (event: XEvent) => this.#follow(event);
    client.on('event', listener);
    this.#offs = [
      () => client.removeListener('event', listener),
      wishes.on('drawWith', (tool) => (this.#tool = tool)),
      wishes.on('undoMark', () => tell({ type: 'unmark', which: 'last' })),
      wishes.on('clearMarks', () => tell({ type: 'unmark', which: 'everybodys' })),
    ];
    this.#lookAround(xinput).catch(() => undefined); // The server went; whoever follows it knows.
  }

  close(): void {
    clearTimeout(this.#timer);
    this.#offs.forEach((off) => off());
    if (!this.#x.isGone) this.#x.client.DestroyWindow(this.window);
  }

  /** Until it is known which devices are a person's own nothing is drawn. */
  async #lookAround(xinput: XInput): Promise<void> {
    this.#size = await this.#x.size();
    this.#own = await OwnDevices.of(this.#x, xinput);
  }

  #follow(event: XEvent): void {
    if (event.wid !== this.window || !event.name?.startsWith('XI')) return;
    if (!this.#own?.has(event.sourceId)) return;
    const here = { x: inUnit((event.x ?? 0) / this.#size.width), y: inUnit((event.y ?? 0) / this.#size.height) };
    if (event.name === 'XIButtonPress' && event.detail === 1) this.#begin(here);
    else if (event.name === 'XIMotion' && this.#from) this.#goOn(here);
    else if (event.name === 'XIButtonRelease' && event.detail === 1) this.#end(here);
  }

  #begin(here: Mark['points'][number]): void {
    this.#from = here;
    this.#id++;
    if (this.#tool === 'pen') this.#mark([here]);
  }
  #goOn(here: Mark['points'][number]): void {
    if (this.#tool === 'pen') this.#waiting.push(here);
    else this.#waiting = [here];
    this.#timer ??= setTimeout(() => this.#flush(), TELL_MS);
  }
  #end(here: Mark['points'][number]): void {
    if (!this.#from) return;
    this.#goOn(here);
    this.#flush();
    this.#from = undefined;
  }

  #flush(): void {
    clearTimeout(this.#timer);
    this.#timer = undefined;
    const points = this.#waiting;
    this.#waiting = [];
    if (!points.length || !this.#from) return;
    // What is not a line takes the place of what it was a moment ago.
    if (this.#tool !== 'pen') return this.#mark([this.#from, ...points.slice(-1)]);
    for (let at = 0; at < points.length; at += MAX_MARK_POINTS)
      this.#tell({ type: 'more', id: this.#id, points: points.slice(at, at + MAX_MARK_POINTS) });
  }

  #mark(points: Mark['points']): void {
    this.#tell({ type: 'mark', id: this.#id, display: 0, fades: false, mark: { kind: this.#tool, points } });
  }
}
