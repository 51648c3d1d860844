import type { SharePort } from '@porch/host';
import { contentHead, contentNonce, joinContent, type OpenContent, type PictureMessage } from '@porch/wire';
import type { FromShareWorker, LineRoom } from './share-messages.ts';

/** The live connection as the worker sees it: the page has it, and tells after each message whether more may come. */
export class WorkerPort implements SharePort {
  readonly sessionId: string;
  readonly seat: number;
  readonly sourceStart: string;
  readonly lastEpoch: number;
  readonly #post: (message: FromShareWorker, transfer: Transferable[]) => void;
  readonly #keys = new WeakMap<Uint8Array, Promise<CryptoKey>>();
  #room: LineRoom = { hasRoom: false, messageBytes: 0, bytesPerSecond: 0 };
  #sealing = 0;
  #work: Promise<void> = Promise.resolve();

  constructor(
    who: { sessionId: string; seat: number; sourceStart: string; lastEpoch: number },
    post: (message: FromShareWorker, transfer: Transferable[]) => void,
  ) {
    ({ sessionId: this.sessionId, seat: this.seat, sourceStart: this.sourceStart, lastEpoch: this.lastEpoch } = who);
    this.#post = post;
  }

  get hasRoom(): boolean {
    return this.#room.hasRoom && this.#sealing === 0;
  }
  get messageBytes(): number {
    return this.#room.messageBytes;
  }
  get bytesPerSecond(): number {
    return this.#room.bytesPerSecond;
  }
  setRoom(room: LineRoom): void {
    this.#room = room;
  }

  /** Web Crypto seals later; one after the other keeps the order. */
  send(content: OpenContent): boolean {
    this.#sealing++;
    this.#work = this.#work
      .then(() => this.#seal(content))
      .catch((error: unknown) => this.#post({ type: 'trouble', what: String(error) }, []))
      .finally(() => this.#sealing--);
    return true;
  }

  tell(seat: number, message: PictureMessage): boolean {
    this.#post({ type: 'tell', seat, message }, []);
    return true;
  }

  async #seal({ key, counter, header, clear, plain }: OpenContent): Promise<void> {
    const head = contentHead(header, clear);
    const algorithm = {
      name: 'AES-GCM',
      iv: contentNonce(counter) as BufferSource,
      additionalData: head as BufferSource,
    };
    const sealed = await crypto.subtle.encrypt(algorithm, await this.#imported(key), plain as BufferSource);
    const bytes = joinContent(head, new Uint8Array(sealed));
    // Until the page answers, there is no room for another one.
    this.#room = { ...this.#room, hasRoom: false };
    this.#post({ type: 'frame', bytes }, [bytes.buffer]);
  }

  #imported(key: Uint8Array): Promise<CryptoKey> {
    const known = this.#keys.get(key);
    if (known) return known;
    const imported = crypto.subtle.importKey('raw', key as BufferSource, 'AES-GCM', false, ['encrypt']);
    this.#keys.set(key, imported);
    return imported;
  }
}
