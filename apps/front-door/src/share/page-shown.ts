import { OLD_MS } from '@porch/client';
import type { ShownScreen, ShownScreenPort } from '@porch/host';
import { StagePort } from '@porch/pages/stage';
import { shallowRef } from 'vue';

export interface ShownNow {
  readonly canvas: HTMLCanvasElement;
  readonly title: string;
  readonly close: string;
  /** Said beneath the picture: that it is on its way, or old. */
  readonly note: string;
  readonly hasPicture: boolean;
}

/** What a technician shows, in this page. */
export class PageShown implements ShownScreenPort {
  readonly now = shallowRef<ShownNow>();
  #onClosed: () => void = () => undefined;

  open(
    { connection, seat, words }: Parameters<ShownScreenPort['open']>[0],
    on: Parameters<ShownScreenPort['open']>[1],
  ) {
    const canvas = document.createElement('canvas');
    const show = (more: Partial<ShownNow>) => {
      if (this.now.value?.canvas === canvas) this.now.value = { ...this.now.value, ...more };
    };
    const port = new StagePort(
      0,
      canvas,
      {
        onSize: () => show({ hasPicture: true, note: '' }),
        onPainted: () => undefined,
        onCursorShape: () => undefined,
        onCursorAt: () => undefined,
        onStanding: ({ ageMs = 0 }) => {
          if (this.now.value?.hasPicture) show({ note: ageMs > OLD_MS ? words.old(Math.floor(ageMs / 1_000)) : '' });
        },
        onHandled: (bytes) => connection.handled(bytes),
        onNeedKey: on.needKey,
      },
      seat,
    );
    this.now.value = { canvas, title: words.title, close: words.close, note: words.waiting, hasPicture: false };
    this.#onClosed = on.closed;
    const end = port.close.bind(port);
    return Object.assign(port, {
      close: () => {
        if (this.now.value?.canvas === canvas) this.now.value = undefined;
        end();
      },
    }) satisfies ShownScreen;
  }

  /** What the person here presses. */
  close(): void {
    this.#onClosed();
  }
}
