import { createApp, h, shallowRef, type App, type Component } from 'vue';
import type { ConsoleSession } from '../console-ability.ts';

/** This page's clock is slowed down while another window covers it; the other's is not. */
const KEEP_MS = 1_000;

interface StageWindow {
  readonly window: Window;
  readonly app: App;
}

/**
 * Windows of their own for displays of one session: one each, beside the page or on another monitor. What is shown in one is
 * shown there alone. They live in the page that opened them: connection, keys and lease stay where they are, and no window
 * outlives its session or its page.
 */
export class StageWindows {
  /** Which displays are shown in a window of their own. */
  readonly displays = shallowRef<ReadonlySet<number>>(new Set());
  /** What a window keeps going while it is open. */
  onKeep: () => void = () => undefined;
  readonly #session: ConsoleSession;
  readonly #open = new Map<number, StageWindow>();
  readonly #closeAll = () => this.closeAll();

  constructor(session: ConsoleSession) {
    this.#session = session;
  }

  get isAnyOpen(): boolean {
    return this.#open.size > 0;
  }

  focus(display: number): void {
    this.#open.get(display)?.window.focus();
  }

  /** `load` fetches what stands in it. False where the browser allows no window. */
  async show(display: number, load: () => Promise<{ readonly default: Component }>): Promise<boolean> {
    if (this.#open.has(display)) {
      this.focus(display);
      return true;
    }
    // Asked for at once: later it would not be by the press that wanted it.
    const other = window.open('', `porch-${this.#session.id}-${display}`, 'popup,width=1180,height=760');
    if (!other) return false;
    const { default: content } = await load();
    // Closed meanwhile, or pressed twice: the browser gave the same window both times.
    if (other.closed || this.#open.has(display)) return true;
    other.document.documentElement.lang = document.documentElement.lang;
    other.document.head.replaceChildren(
      ...[...document.head.querySelectorAll('style, link[rel=stylesheet]')].map((node) => node.cloneNode(true)),
    );
    const place = other.document.createElement('div');
    place.id = 'app';
    other.document.body.replaceChildren(place);
    const app = createApp({ render: () => h(content, { session: this.#session, display, own: other }) });
    this.#open.set(display, { window: other, app });
    this.#tell();
    app.mount(place);
    const timer = other.setInterval(() => this.onKeep(), KEEP_MS);
    other.addEventListener('pagehide', () => {
      other.clearInterval(timer);
      this.#forget(display);
    });
    window.addEventListener('pagehide', this.#closeAll);
    return true;
  }

  /** Back into the page. */
  close(display: number): void {
    const known = this.#open.get(display);
    this.#forget(display);
    known?.window.close();
  }
  closeAll(): void {
    for (const display of [...this.#open.keys()]) this.close(display);
    window.removeEventListener('pagehide', this.#closeAll);
  }

  #forget(display: number): void {
    const known = this.#open.get(display);
    if (!this.#open.delete(display)) return;
    known?.app.unmount();
    this.#tell();
  }
  #tell(): void {
    this.displays.value = new Set(this.#open.keys());
  }
}
