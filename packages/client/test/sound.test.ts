import { VirtualClock } from '@porch/testkit/virtual-clock';
import { decodeSound, encodeSound, type SoundMessage, type SoundPacket } from '@porch/wire';
import { describe, expect, it } from 'vitest';
import { SoundHearing, SoundSending, type SealedLine, type VoiceOut } from '../src/index.ts';

const opus = new Uint8Array([1, 2, 3]);
const plainOf = (number: number, isFirst = false) => encodeSound({ number, isFirst, channels: 1, opus });
const me = { startId: 'one' };

function hearing() {
  const clock = new VirtualClock();
  const played: { number: number; lost: number }[] = [];
  let closed = 0;
  const out: VoiceOut = {
    peak: 0.5,
    take: ({ number }: SoundPacket, lost) => played.push({ number, lost }),
    close: () => closed++,
  };
  return { clock, played, one: new SoundHearing(clock, () => out), closed: () => closed };
}

describe('one who is heard', () => {
  it('is heard in order, with what was lost, and each number once', () => {
    const { one, played } = hearing();
    for (const number of [0, 1, 4, 4, 2, 5]) one.take(plainOf(number, number === 0), me);
    expect(played).toEqual([
      { number: 0, lost: 0 },
      { number: 1, lost: 0 },
      { number: 4, lost: 2 },
      { number: 5, lost: 0 },
    ]);
    expect(one.report()).toEqual({ got: 4, lost: 2, lateMs: 0 });
    expect(one.report()).toEqual({ got: 0, lost: 0, lateMs: 0 });
  });
  it('has lost nothing where silence was left out, and counts anew with a new start of its program', () => {
    const { one, played } = hearing();
    one.take(plainOf(0, true), me);
    one.take(plainOf(500, true), me);
    one.take(plainOf(0, true), { startId: 'two' });
    expect(played.map(({ lost }) => lost)).toEqual([0, 0, 0]);
  });
  it('is late by what came later than at its best', () => {
    const { one, clock } = hearing();
    one.take(plainOf(0, true), me);
    clock.advance(20);
    one.take(plainOf(1), me);
    clock.advance(320);
    one.take(plainOf(2), me);
    expect(one.report().lateMs).toBe(300);
  });
  it('is not decoded beyond what anybody says in a second, and nonsense never', () => {
    const { one, played } = hearing();
    for (let number = 0; number < 2_000; number++) one.take(plainOf(number), me);
    expect(played).toHaveLength(150);
    one.report();
    expect(one.take(plainOf(2_001), me)).toBe(true);
    for (const nonsense of [
      new Uint8Array(0),
      new Uint8Array([2]),
      new Uint8Array(2_000).fill(2),
      new Uint8Array([2, 0, 0, 0, 0, 9, 1]),
    ])
      expect(one.take(nonsense, me)).toBe(false);
  });
});

describe('what is sent', () => {
  const begin = () => {
    const clock = new VirtualClock();
    const sent: { seat: number; number: number; isFirst: boolean }[] = [];
    const line = {
      sendPlain: (seat: number, plain: Uint8Array) => {
        const { number, isFirst } = decodeSound(plain);
        sent.push({ seat, number, isFirst });
        return true;
      },
    } as unknown as SealedLine<SoundMessage>;
    return { clock, sent, sending: new SoundSending(line, clock, [96_000, 48_000, 20_000]) };
  };
  const listen = (more: Partial<Extract<SoundMessage, { type: 'listen' }>> = {}) =>
    ({ type: 'listen', isOn: true, got: 50, lost: 0, lateMs: 0, ...more }) as const;
  const frame = (silentFrames = 0) => ({ channels: 2, opus, silentFrames, peak: 1 }) as const;

  it('goes to those who want it and may have it, for as long as they say so', () => {
    const { clock, sent, sending } = begin();
    expect(sending.send(frame(), () => true)).toBe(0);
    sending.hear(1, listen());
    sending.hear(2, listen());
    expect(sending.send(frame(), (seat) => seat === 1)).toBe(1);
    sending.hear(2, listen({ isOn: false }));
    expect(sending.seats).toEqual([1]);
    clock.advance(4_900);
    sending.send(frame(), () => true);
    clock.advance(200);
    expect([sending.send(frame(), () => true), sending.seats]).toEqual([0, []]);
    expect(sent.map(({ seat }) => seat)).toEqual([1, 1]);
  });
  it('numbers silence, too, and marks what comes after it', () => {
    const { sent, sending } = begin();
    sending.hear(1, listen());
    for (const silent of [0, 0, 10, 0]) sending.send(frame(silent), () => true);
    expect(sent.map(({ number, isFirst }) => [number, isFirst])).toEqual([
      [0, true],
      [1, false],
      [12, true],
      [13, false],
    ]);
  });
  it('is as good as the worst line of those who are sent it, and rests for whoever gets too little of it', () => {
    const { sending, sent } = begin();
    sending.hear(1, listen());
    sending.hear(2, listen({ got: 30, lost: 20 }));
    expect(sending.bitsPerSecond).toBe(48_000);
    for (let n = 0; n < 2; n++) sending.hear(2, listen({ got: 30, lost: 20 }));
    // The other one goes on, at its own best.
    expect(sending.bitsPerSecond).toBe(96_000);
    sending.send(frame(), () => true);
    expect(sent.map(({ seat }) => seat)).toEqual([1]);
  });
});
