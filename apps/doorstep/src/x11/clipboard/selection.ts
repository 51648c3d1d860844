import x11, { type Fixes, type XEvent } from 'x11';
import type { XConnection } from '../server/connection.ts';

/* A selection as the Inter-Client Communication Conventions Manual (2.0, chapter 2) has it, large ones in pieces (INCR). */

/** An owner that says nothing for this long is not waited for any longer. */
const ANSWER_MS = 3_000;
/** What fits into one request of the client library. */
const PIECE_BYTES = 240 * 1024;
/** So many programs may be given something large at once; the one that waited longest goes. */
const MOST_GIVING = 16;
/** Programs that ask for the same again and again get new properties, in turn. */
const PROPERTIES = 8;
const INPUT_ONLY = 2;
const ATOM_ATOM = 4;
const ATOM_INTEGER = 19;
const SELECTION_NOTIFY = 31;
const ALL = 0x1fffffff;
const PROPERTY_CHANGE = x11.eventMask['PropertyChange'] ?? 0;

interface Reading {
  readonly target: number;
  readonly pieces: Buffer[];
  isInPieces: boolean;
  sizeBytes: number;
  readonly mostBytes: number;
  heard(): void;
  done(bytes: Buffer | 'too large' | undefined): void;
}
interface Giving {
  readonly requestor: number;
  readonly property: number;
  readonly type: number;
  readonly bytes: Buffer;
  at: number;
}

type Atoms = Readonly<Record<'TARGETS' | 'INCR' | 'TIMESTAMP', number>>;

/** One selection: hears who takes it, reads it, and owns it. */
export class Selection {
  readonly #x: XConnection;
  readonly #name: number;
  readonly #atoms: Atoms;
  readonly #window: number;
  readonly #reading = new Map<number, Reading>();
  readonly #giving = new Map<string, Giving>();
  readonly #names = new Map<number, string>();
  #content: ReadonlyMap<string, Buffer> = new Map();
  #next = 0;
  /** Another program has taken it, or it has lost its owner. */
  onTaken: () => void = () => undefined;

  private constructor(x: XConnection, name: number, atoms: Atoms) {
    this.#x = x;
    this.#name = name;
    this.#atoms = atoms;
    this.#window = x.client.AllocID();
    x.client.CreateWindow(this.#window, x.root, 0, 0, 1, 1, 0, 0, INPUT_ONLY, 0, { eventMask: PROPERTY_CHANGE });
    x.client.on('event', (event) => this.#follow(event));
  }

  static async open(x: XConnection, fixes: Fixes, name: string): Promise<Selection> {
    const [atom, targets, incr, timestamp] = await Promise.all(
      [name, 'TARGETS', 'INCR', 'TIMESTAMP'].map((one) => x.atom(one)),
    );
    const atoms = { TARGETS: targets ?? 0, INCR: incr ?? 0, TIMESTAMP: timestamp ?? 0 };
    const selection = new Selection(x, atom ?? 0, atoms);
    fixes.SelectSelectionInput(selection.#window, atom ?? 0, 7);
    await x.flush();
    return selection;
  }

  /** Names of what its owner could give; none when nobody answers. */
  async targets(): Promise<string[]> {
    const bytes = await this.read('TARGETS', 64 * 1024);
    if (!(bytes instanceof Buffer)) return [];
    const atoms = Array.from({ length: Math.floor(bytes.length / 4) }, (_, i) => bytes.readUInt32LE(i * 4));
    return Promise.all(atoms.map((atom) => this.#nameOf(atom)));
  }

  /** What its owner gives as this; undefined when it gives nothing, or does not answer. */
  async read(target: string, mostBytes: number): Promise<Buffer | 'too large' | undefined> {
    const [atom, property] = await Promise.all([
      this.#x.atom(target),
      this.#x.atom(`_ZESTY_PORCH_CLIP_${this.#next++ % PROPERTIES}`),
    ]);
    this.#reading.get(property)?.done(undefined);
    return new Promise((resolve) => {
      let timer: ReturnType<typeof setTimeout>;
      const reading: Reading = {
        target: atom,
        pieces: [],
        isInPieces: false,
        sizeBytes: 0,
        mostBytes,
        heard: () => {
          clearTimeout(timer);
          timer = setTimeout(() => reading.done(undefined), ANSWER_MS);
        },
        done: (bytes) => {
          clearTimeout(timer);
          if (this.#reading.get(property) === reading) this.#reading.delete(property);
          resolve(bytes);
        },
      };
      reading.heard();
      this.#reading.set(property, reading);
      if (this.#x.isGone) reading.done(undefined);
      else this.#x.client.ConvertSelection(this.#window, this.#name, atom, property, 0);
    });
  }

  /** From now on every program that asks is given this, by the name of what it asks for. */
  async own(content: ReadonlyMap<string, Buffer>): Promise<void> {
    for (const name of content.keys()) this.#names.set(await this.#x.atom(name), name);
    this.#content = content;
    this.#x.client.SetSelectionOwner(this.#window, this.#name, 0);
    await this.#x.flush();
  }

  async #nameOf(atom: number): Promise<string> {
    const known = this.#names.get(atom) ?? (await this.#x.ask<string>((cb) => this.#x.client.GetAtomName(atom, cb)));
    this.#names.set(atom, known);
    return known;
  }

  #follow(event: XEvent): void {
    const window = event['window'] ?? event.wid;
    if (event.name === 'SelectionNotify' && event['owner'] !== undefined) {
      if (event['selection'] === this.#name && event['owner'] !== this.#window) this.onTaken();
    } else if (event.name === 'SelectionNotify') this.#answered(event);
    else if (event.name === 'PropertyNotify' && window === this.#window && event['state'] === 0)
      this.#take(event['atom'] as number, true);
    else if (event.name === 'PropertyNotify' && event['state'] === 1) {
      const giving = this.#giving.get(`${String(window)} ${String(event['atom'])}`);
      if (giving) this.#giveMore(giving);
    } else if (event.name === 'SelectionRequest') this.#give(event);
  }

  #answered(event: XEvent): void {
    const property = event['property'] as number;
    const refused = [...this.#reading.values()].find(({ target }) => target === event['target']);
    if (property === 0) refused?.done(undefined);
    else this.#take(property, false);
  }

  /** Taken in the answer's own callback, and not after a promise: the first piece's notice may be in the same packet. */
  #take(property: number, isPiece: boolean): void {
    const reading = this.#reading.get(property);
    if (!reading || isPiece !== reading.isInPieces) return;
    reading.heard();
    this.#x.client.GetProperty(1, this.#window, property, 0, 0, ALL, (error, answer) => {
      if (error) reading.done(undefined);
      else if (answer.type === this.#atoms.INCR) reading.isInPieces = true;
      else if (!isPiece) reading.done(answer.data.length > reading.mostBytes ? 'too large' : answer.data);
      else if (!answer.data.length) reading.done(Buffer.concat(reading.pieces));
      else {
        reading.sizeBytes += answer.data.length;
        if (reading.sizeBytes > reading.mostBytes) reading.done('too large');
        else reading.pieces.push(answer.data);
      }
      return true;
    });
  }

  #give(event: XEvent): void {
    const { client } = this.#x;
    const [requestor, target] = [event['requestor'] as number, event['target'] as number];
    const property = (event['property'] as number) || target;
    const bytes = this.#content.get(this.#names.get(target) ?? '');
    let isGiven = true;
    if (target === this.#atoms.TARGETS) {
      const atoms = [...this.#names].filter(([, name]) => this.#content.has(name)).map(([atom]) => atom);
      client.ChangeProperty(0, requestor, property, ATOM_ATOM, 32, words([target, this.#atoms.TIMESTAMP, ...atoms]));
    } else if (target === this.#atoms.TIMESTAMP)
      client.ChangeProperty(0, requestor, property, ATOM_INTEGER, 32, words([0]));
    else if (!bytes) isGiven = false;
    else if (bytes.length <= PIECE_BYTES) client.ChangeProperty(0, requestor, property, target, 8, bytes);
    else {
      client.ChangeWindowAttributes(requestor, { eventMask: PROPERTY_CHANGE });
      const [oldest] = this.#giving.keys();
      if (oldest !== undefined && this.#giving.size >= MOST_GIVING) this.#giving.delete(oldest);
      this.#giving.set(`${requestor} ${property}`, { requestor, property, type: target, bytes, at: 0 });
      client.ChangeProperty(0, requestor, property, this.#atoms.INCR, 32, words([bytes.length]));
    }
    const answer = Buffer.alloc(32);
    answer[0] = SELECTION_NOTIFY;
    answer.writeUInt32LE(((event['time'] as number | undefined) ?? 0) >>> 0, 4);
    [requestor, this.#name, target, isGiven ? property : 0].forEach((word, i) => answer.writeUInt32LE(word, 8 + 4 * i));
    client.SendEvent(requestor, 0, 0, answer);
  }

  #giveMore(giving: Giving): void {
    const { requestor, property, type, bytes, at } = giving;
    const piece = bytes.subarray(at, at + PIECE_BYTES);
    giving.at += piece.length;
    this.#x.client.ChangeProperty(0, requestor, property, type, 8, piece);
    // An empty piece says that it was the last.
    if (!piece.length) this.#giving.delete(`${requestor} ${property}`);
  }
}

function words(values: readonly number[]): Buffer {
  const bytes = Buffer.alloc(values.length * 4);
  values.forEach((value, i) => bytes.writeUInt32LE(value, i * 4));
  return bytes;
}
