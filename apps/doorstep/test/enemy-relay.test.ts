import {
  LocalPicture,
  OLD_MS,
  PictureLine,
  SealedLine,
  WatchedPictures,
  TechnicianWords,
  type LiveConnection,
} from '@porch/client';
import { newSession, type SessionState } from '@porch/core';
import { nodeCodecs } from '@porch/doorstep';
import { checkWords, GrantBook, liveSharePort, ScreenShare, type Running } from '@porch/host';
import { codecs, fakeKit, PaintedDesktop, until } from '@porch/testkit';
import { participantOf } from '@porch/testkit/participant';
import {
  channels,
  decodeFrame,
  makeKeys,
  pictureChannel,
  splitContent,
  startOf,
  type Frame,
  type ParticipantKeys,
  realClock,
  realRandomness,
} from '@porch/wire';
import { afterEach, describe, expect, it } from 'vitest';

const SESSION = '00000000-0000-4000-8000-0000000000aa';
const [SOURCE, PIM, RUNE] = [2, 1, 3];
type Seat = { seat: number; keys: ParticipantKeys; deliver(bytes: Uint8Array): void };

/** One end of a session whose relay belongs to the test. */
class End implements Seat {
  readonly seat: number;
  readonly keys = makeKeys();
  readonly #world: World;
  readonly #listeners = new Map<string, Set<(value: never) => void>>();
  #taker: ((bytes: Uint8Array) => void) | undefined;
  readonly status = 'live';
  readonly sessionId = SESSION;
  readonly hasRoom = true;
  readonly clock = realClock;
  readonly random = realRandomness;
  readonly messageBytes = 64 * 1024;
  readonly bytesPerSecond = 1e6;
  state: SessionState = newSession;
  viewers: readonly { seat: number; displays: number[] }[] = [];
  readonly serviceNowMs = Date.now();

  constructor(world: World, seat: number) {
    this.#world = world;
    this.seat = seat;
  }
  get participantId(): string {
    return `participant-${this.seat}`;
  }
  on(name: string, listener: (value: never) => void): () => void {
    const set = this.#listeners.get(name) ?? new Set();
    this.#listeners.set(name, set.add(listener));
    return () => set.delete(listener);
  }
  sendFrame(bytes: Uint8Array): boolean {
    this.#world.pass(this.seat, bytes);
    return true;
  }
  handled(): void {
    this.#world.handled++;
  }
  watch(): void {
    // The test says who looks.
  }
  setPictureTaker(taker: ((bytes: Uint8Array) => void) | undefined): void {
    this.#taker = taker;
  }
  deliver(bytes: Uint8Array): void {
    const frame = decodeFrame(bytes);
    const isPicture = frame.channel === 'screen' || frame.channel === 'cursor';
    if (isPicture && this.#taker) this.#taker(bytes.slice());
    else for (const listener of this.#listeners.get('frame') ?? []) listener({ frame, bytes } as never);
  }
  get live(): LiveConnection {
    return this as unknown as LiveConnection;
  }
}

const platform = await nodeCodecs();

/** A source, technicians, and between them an enemy who has the relay and the records. */
class World {
  readonly ends = new Map<number, End>();
  readonly painted = new PaintedDesktop(192, 192);
  readonly share: ScreenShare;
  readonly words: Running;
  readonly grants: GrantBook;
  readonly asked: string[] = [];
  handled = 0;
  /** Everything that came from the source for all, as the enemy keeps it. */
  readonly kept: Uint8Array[] = [];
  /** What the enemy does with a message of the source; the honest relay passes it on. */
  enemy: (bytes: Uint8Array, frame: Frame) => Uint8Array[] = (bytes) => [bytes];
  looking: number[] = [];

  constructor() {
    for (const seat of [SOURCE, PIM, RUNE]) this.ends.set(seat, new End(this, seat));
    this.tellKeys(new Map([...this.ends].map(([seat, end]) => [seat, end.keys])));
    const source = this.end(SOURCE).live;
    const line = new SealedLine(source, pictureChannel);
    const port = liveSharePort(source, new PictureLine(line), platform.seal);
    this.share = new ScreenShare(port, this.painted.desktop, platform, () => undefined);
    this.grants = new GrantBook(source.keys, SESSION, 0);
    const { kit } = fakeKit(source, this.grants, {}, (question) => {
      this.asked.push(question.lines[0] ?? '');
      return Promise.resolve({ what: 'yes', choices: [] });
    });
    this.words = checkWords.begin(kit);
    source.on('frame', ({ frame }) => {
      if (frame.channel === 'screen' && frame.senderSeat === 0) this.share.handleRelay(frame);
    });
    line.listen(({ from, message }) => this.share.take(from.seat, message));
  }

  end(seat: number): End {
    return this.ends.get(seat) as End;
  }
  /** What the service tells each end about the others' keys. */
  tellKeys(keys: Map<number, ParticipantKeys>, toOnly?: number): void {
    const participants = Object.fromEntries(
      [...keys].map(([seat, their]) => {
        const id = `participant-${seat}`;
        const part = seat === SOURCE ? 'doorstep' : seat === PIM ? 'lead' : 'colleague';
        return [id, participantOf(id, seat, part, { keys: their, name: `Somebody ${seat}` })];
      }),
    );
    const state = { ...newSession, holderId: `participant-${SOURCE}`, participants } as unknown as SessionState;
    for (const [seat, end] of this.ends) if (toOnly === undefined || seat === toOnly) end.state = state;
  }
  pass(from: number, bytes: Uint8Array): void {
    const frame = decodeFrame(bytes);
    if (frame.receiverSeat !== 0) {
      this.ends.get(frame.receiverSeat)?.deliver(bytes);
      return;
    }
    if (from !== SOURCE) return;
    this.kept.push(bytes.slice());
    for (const out of this.enemy(bytes, frame)) for (const seat of this.looking) this.end(seat).deliver(out);
  }
  async lookWith(...seats: number[]): Promise<void> {
    this.looking = seats;
    const watchers = seats.map((seat) => ({ seat, start: startOf(this.end(seat).keys), displays: [0] }));
    const source = this.end(SOURCE).live;
    source.viewers = seats.map((seat) => ({ seat, displays: [0] }));
    for (const { seat, signKey, agreeKey } of Object.values(source.state.participants))
      if (seats.includes(seat)) this.grants.grant('view-screen', { signKey, agreeKey }, Date.now() + 1e9);
    this.words.changed?.();
    await this.share.setWatchers(watchers);
  }
  viewer(seat: number) {
    const look = new WatchedPictures(this.end(seat).live);
    const words = new TechnicianWords(this.end(seat).live);
    const picture = new LocalPicture(this.end(seat).live, 0, codecs);
    look.open(picture);
    closers.push(() => (look.close(), words.close()));
    const shows = (colour: number) => () => {
      const { rgba, isComplete } = picture.viewer.picture;
      const pixels = new Uint32Array(rgba.buffer, rgba.byteOffset, rgba.length / 4);
      const abgr = (0xff000000 | ((colour & 255) << 16) | (colour & 0xff00) | (colour >> 16)) >>> 0;
      return isComplete && pixels.every((word) => word === abgr);
    };
    const age = () => picture.standing.ageMs ?? Infinity;
    return { look, words, picture, shows, age, refused: () => picture.standing.refused };
  }
}

const closers: (() => void)[] = [];
afterEach(() => closers.splice(0).forEach((close) => close()));
function world(): World {
  const made = new World();
  closers.push(() => made.share.close());
  return made;
}
/** Pim looks at a picture of one colour, and it is vouched for. */
async function looking(colour = 0x204060) {
  const w = world();
  w.painted.fill(colour);
  const pim = w.viewer(PIM);
  await w.lookWith(PIM);
  await until('the picture', pim.shows(colour));
  await until('it to be vouched for', () => pim.age() < OLD_MS);
  return { w, pim };
}
const isUnit = (frame: Frame) => frame.channel === 'screen' && frame.kind <= 3;

describe('an enemy with the relay in hand', () => {
  it('cannot look: no pixel is in anything that passes, and no key of theirs opens it', async () => {
    const { w } = await looking(0xc0ffee);
    const marks = [Buffer.from([0xc0, 0xff, 0xee]), Buffer.from([0xee, 0xff, 0xc0])];
    const units = w.kept.filter((bytes) => isUnit(decodeFrame(bytes)));
    expect(units.length).toBeGreaterThan(0);
    for (const bytes of w.kept) for (const mark of marks) expect(Buffer.from(bytes).includes(mark)).toBe(false);
    // The clear part says which tiles, and nothing else of them: with other pixels it is the same.
    const { w: other } = await looking(0x123456);
    const clearOf = (from: World) =>
      from.kept
        .filter((bytes) => isUnit(decodeFrame(bytes)))
        .map((bytes) => Buffer.from(splitContent(bytes).clear).toString('hex'));
    expect(clearOf(other)[0]).toBe(clearOf(w)[0]);
  });

  it('cannot put keys of their own between without the words giving them away', async () => {
    const honest = world();
    const pim = honest.viewer(PIM);
    honest.painted.fill(1);
    await honest.lookWith(PIM);
    await until('the words', () => pim.words.words.length > 0);
    pim.words.askCompare();
    await until('the customer to be asked', () => honest.asked.length > 0);
    expect(honest.asked[0]).toBe(pim.words.words.join(' · '));

    // Each end is told a key of the enemy's for the other. What was sealed for that key neither end can read.
    const w = world();
    const rune = w.viewer(PIM);
    const enemy = makeKeys();
    const real = new Map([...w.ends].map(([seat, end]) => [seat, end.keys]));
    w.tellKeys(new Map([...real, [SOURCE, enemy]]), PIM);
    w.tellKeys(new Map([...real, [PIM, enemy]]), SOURCE);
    w.painted.fill(0x778899);
    await w.lookWith(PIM);
    w.painted.fill(0x112233);
    await until('something to be sent', () => w.kept.length > 2);
    await rune.picture.viewer.settled();
    expect([rune.shows(0x112233)(), rune.words.words]).toEqual([false, []]);
  });

  it('cannot show something older: what is sent again, or late, changes nothing', async () => {
    const { w, pim } = await looking(0x111111);
    const old = w.kept.filter((bytes) => isUnit(decodeFrame(bytes)));
    w.painted.fill(0x222222);
    await until('the new picture', pim.shows(0x222222));
    for (const bytes of old) w.end(PIM).deliver(bytes);
    for (const bytes of [...old].reverse()) w.end(PIM).deliver(bytes);
    await pim.picture.viewer.settled();
    expect(pim.shows(0x222222)()).toBe(true);
  });

  it('cannot change a byte of what a message is about or holds: it is refused and counted', async () => {
    const { w, pim } = await looking();
    w.enemy = (bytes, frame) => {
      if (!isUnit(frame)) return [bytes];
      return [2, 3, 8, 15, 23, 27, 30, bytes.length - 3].map((at) => {
        const changed = bytes.slice();
        changed[at] = (changed[at] ?? 0) ^ 1;
        return changed;
      });
    };
    const before = pim.refused();
    w.painted.fill(0x999999);
    await until('them to be refused', () => pim.refused() > before);
    await pim.picture.viewer.settled();
    expect(pim.shows(0x999999)()).toBe(false);
    expect(channels.screen).toBe(1);
  });

  it('cannot freeze the picture unnoticed: three seconds without an answer, and it is old', async () => {
    const { w, pim } = await looking();
    w.enemy = () => [];
    const before = [...w.kept];
    await until('it to be called old', () => pim.age() > OLD_MS);
    // Old checkpoints answer old questions only.
    const checkpoints = before.filter((bytes) => decodeFrame(bytes).kind === 4);
    for (const bytes of checkpoints) w.end(PIM).deliver(bytes);
    await pim.picture.viewer.settled();
    expect(pim.age()).toBeGreaterThan(OLD_MS);
  });

  it('cannot leave a change out, or change the order, unnoticed, though everything else goes on', async () => {
    const { w, pim } = await looking(0x101010);
    let isLeft = false;
    w.enemy = (bytes, frame) => {
      if (!isUnit(frame) || isLeft) return [bytes];
      isLeft = true;
      return [];
    };
    w.painted.fill(0x202020);
    await until('one to be left out', () => isLeft);
    await until('it to be called old', () => pim.age() > OLD_MS);
    expect(pim.shows(0x202020)()).toBe(false);
  });

  it('cannot show a newcomer what was before they came, nor pass old tiles off as new', async () => {
    const { w } = await looking(0x303030);
    const before = w.kept.length;
    const rune = w.viewer(RUNE);
    w.enemy = (bytes, frame) => (isUnit(frame) ? [] : [bytes]);
    await w.lookWith(PIM, RUNE);
    await until('a new key to be in use', () => w.kept.slice(before).some((bytes) => decodeFrame(bytes).epoch > 1));
    for (const bytes of w.kept.slice(0, before)) w.end(RUNE).deliver(bytes);
    await rune.picture.viewer.settled();
    expect(rune.picture.viewer.picture.grid, 'nothing of before can be read').toBeUndefined();

    // Within the new key: yesterday's tiles for today's are noticed.
    w.share.take(RUNE, { type: 'epochTaken', epoch: 2 });
    const marked = w.kept.length;
    w.painted.fill(0x404040);
    await until('it to be sent', () => w.kept.slice(marked).some((bytes) => isUnit(decodeFrame(bytes))));
    const stale = w.kept.slice(marked).filter((bytes) => isUnit(decodeFrame(bytes)));
    w.painted.fill(0x505050);
    await until(
      'newer to be sent',
      () => w.kept.slice(marked).filter((b) => isUnit(decodeFrame(b))).length > stale.length,
    );
    for (const bytes of stale) w.end(RUNE).deliver(bytes);
    await until(
      'the newcomer to know that it is not all',
      () => rune.picture.viewer.picture.grid !== undefined,
      5_000,
    ).catch(() => undefined);
    expect(rune.age(), 'never vouched for').toBe(Infinity);
  });

  it('reads nothing with a key that was withdrawn: what comes after is sealed with another', async () => {
    const { w, pim } = await looking(0x606060);
    await w.lookWith(PIM, RUNE);
    const marked = w.kept.length;
    await w.lookWith(RUNE);
    w.painted.fill(0x707070);
    await until('it to be sent to others', () => w.kept.slice(marked).some((bytes) => isUnit(decodeFrame(bytes))));
    for (const bytes of w.kept.slice(marked)) w.end(PIM).deliver(bytes);
    await pim.picture.viewer.settled();
    expect(pim.shows(0x707070)()).toBe(false);
  });
});
