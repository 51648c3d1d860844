import type { PictureAim, PicturePort } from '@porch/client';
import type { CursorShape } from '@porch/screen';
import type { FromStageWorker, ToStageWorker } from './stage-messages.ts';

/** What a stage does with what its worker tells. */
export interface StageEvents {
  onSize(width: number, height: number): void;
  onPainted(): void;
  onCursorShape(shape: CursorShape): void;
  onCursorAt(x: number, y: number): void;
  onStanding(standing: { ageMs: number | undefined; refused: number; isComplete: boolean }): void;
  onHandled(bytes: number): void;
  onNeedKey(): void;
}

/** The page's end of a picture whose work is done in a worker, on a canvas that the worker has. */
export class StagePort implements PicturePort {
  readonly display: number;
  readonly from?: number;
  readonly #worker: Worker;
  readonly #events: StageEvents;
  onResync: () => void = () => undefined;
  readonly #answers = new Map<number, (value: never) => void>();
  #asked = 0;
  #size = { width: 0, height: 0 };
  #generation = 0;
  #newest = 0;
  #needKeyTimer: ReturnType<typeof setTimeout> | undefined;

  /** `from`: whose picture, where it is not the customer's. */
  constructor(display: number, canvas: HTMLCanvasElement, events: StageEvents, from?: number) {
    this.display = display;
    if (from !== undefined) this.from = from;
    this.#events = events;
    this.#worker = new Worker(new URL('./stage-worker.ts', import.meta.url), { type: 'module' });
    this.#worker.onmessage = ({ data }: MessageEvent<FromStageWorker>) => this.#handle(data);
    const offscreen = canvas.transferControlToOffscreen();
    this.#post({ type: 'begin', display, canvas: offscreen }, [offscreen]);
  }

  get aim(): PictureAim {
    return { update: this.#newest, display: this.display, generation: this.#generation };
  }

  setKey: PicturePort['setKey'] = (key) => this.#post({ type: 'key', key });
  take = (bytes: Uint8Array): void => this.#post({ type: 'take', bytes: bytes.buffer }, [bytes.buffer as ArrayBuffer]);
  challenge: PicturePort['challenge'] = () => this.#ask('challenge');
  holds: PicturePort['holds'] = () => this.#ask('holds');
  forget = (): void => this.#post({ type: 'forget' });

  close(): void {
    clearTimeout(this.#needKeyTimer);
    this.#worker.terminate();
  }

  #post(message: ToStageWorker, transfer: Transferable[] = []): void {
    this.#worker.postMessage(message, transfer);
  }

  #ask<T>(type: 'challenge' | 'holds'): Promise<T> {
    return new Promise((resolve) => {
      const id = ++this.#asked;
      this.#answers.set(id, resolve);
      this.#post({ type, id });
    });
  }

  #handle(message: FromStageWorker): void {
    switch (message.type) {
      case 'painted':
        this.#newest = message.newestNumber;
        this.#generation = message.generation;
        if (message.width !== this.#size.width || message.height !== this.#size.height) {
          this.#size = { width: message.width, height: message.height };
          this.#events.onSize(message.width, message.height);
        }
        this.#events.onPainted();
        break;
      case 'cursorShape':
        this.#events.onCursorShape(message.shape);
        break;
      case 'cursorAt':
        this.#events.onCursorAt(message.x, message.y);
        break;
      case 'handled':
        this.#events.onHandled(message.bytes);
        break;
      case 'standing':
        this.#events.onStanding(message);
        break;
      case 'trouble':
        // One question for a key is enough, however many messages wait for it.
        if (message.trouble === 'no-key')
          this.#needKeyTimer ??= setTimeout(() => {
            this.#needKeyTimer = undefined;
            this.#events.onNeedKey();
          }, 300);
        break;
      case 'resync':
        this.onResync();
        break;
      case 'answer':
        this.#answers.get(message.id)?.(message.value as never);
        this.#answers.delete(message.id);
        break;
    }
  }
}
