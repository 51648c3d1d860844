import { House, RawProgram, until } from '@porch/testkit';
import { makeKeys } from '@porch/wire';
import { connect, type Socket } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

const isWell = async () => (await fetch(`${house.url}/healthz`)).status === 200;
const handshake = (path: string, more = '') =>
  `GET ${path} HTTP/1.1\r\nHost: porch\r\nConnection: Upgrade\r\nUpgrade: websocket\r\n${more}\r\n`;
const proper = 'Sec-WebSocket-Version: 13\r\nSec-WebSocket-Key: AAAAAAAAAAAAAAAAAAAAAA==\r\n';

function open(): Promise<Socket> {
  const port = Number(new URL(house.url).port);
  return new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1', () => resolve(socket));
    socket.on('error', () => undefined);
  });
}
/** Reads what is answered, then vanishes without a word: the kernel sends a reset. */
async function resetAfter(request: string, reads: boolean): Promise<void> {
  const socket = await open();
  const answered = new Promise((resolve) => socket.once('data', resolve));
  socket.write(request);
  if (reads) await answered;
  socket.resetAndDestroy();
}

describe('a stranger’s connection', () => {
  it.each([
    ['/nope', ''],
    ['/nope', proper],
    ['/live', ''],
    ['/live', proper],
    ['/live?x=1', 'Sec-WebSocket-Version: 7\r\n'],
    ['/devices', ''],
    ['/devices', proper],
    ['/api/feed', proper],
  ])('changes nothing for others when it asks for %s and resets at any moment', async (path, more) => {
    for (let round = 0; round < 10; round++)
      for (const reads of [true, false]) await resetAfter(handshake(path, more), reads);
    // A handshake cut in the middle, and one that has said something already.
    const whole = handshake(path, more);
    for (let at = 1; at < whole.length; at += 17) await resetAfter(whole.slice(0, at), false);
    const half = await open();
    half.write(`${handshake('/live', proper)}\u0081`);
    half.resetAndDestroy();
    expect(await isWell()).toBe(true);
  });

  it('is let go after it was refused, also when it never closes its half', async () => {
    const socket = await open();
    const ended = new Promise((resolve) => socket.once('close', resolve));
    // What nobody reads is never at its end.
    socket.resume();
    socket.write(handshake('/nope'));
    await ended;
    expect(await isWell()).toBe(true);
  });

  it('from one address takes places from its own alone, and they come back', async () => {
    const silent = Array.from({ length: 45 }, () => new RawProgram(house.liveUrl));
    const refused = await until('some to be refused', () => silent.filter((p) => p.socket.readyState > 1).length >= 5);
    expect(refused).toBe(true);
    const elsewhere = new RawProgram(house.liveUrl, { localAddress: '127.0.0.9' });
    await elsewhere.nonce();
    for (const program of [...silent, elsewhere]) program.socket.terminate();
    const pim = await house.signedIn();
    const { session } = await pim.start({});
    const again = await until('a place again', async () => {
      const program = new RawProgram(house.liveUrl);
      await Promise.race([program.nonce(), program.closed]);
      return program.socket.readyState === 1 ? program : undefined;
    });
    again.socket.send(await again.helloWith(await pim.livePass(session.id)));
    await until('to be let in', () => again.told.some((m) => m.type === 'caughtUp'));
    again.socket.close();
  });
});

describe('a technician', () => {
  it('who watches many displays, is allowed, and leaves, breaks nothing', async () => {
    const { id, customer } = await house.sessionUnderWay();
    const pim = await house.signedIn();
    const program = await new RawProgram(house.liveUrl).comeIn(await pim.livePass(id));
    for (let display = 0; display < 200; display++) program.say({ type: 'watch', display, isOn: true });
    expect((await program.closed).reason).toBe('TOO_MANY_DISPLAYS');
    await customer.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'still here' });
    expect(await isWell()).toBe(true);
  });

  it('who signs out is out everywhere that was opened with it, and nowhere else', async () => {
    const { id } = await house.sessionUnderWay();
    const [here, there] = [await house.signedIn(), await house.signedIn()];
    const program = await new RawProgram(house.liveUrl).comeIn(await here.livePass(id));
    const waiting = await here.livePass(id);
    const all = await there.signIns();
    expect(all.filter((s) => s.isThisOne)).toHaveLength(1);
    expect(all.length).toBeGreaterThanOrEqual(2);
    await here.signOut();
    expect((await program.closed).reason).toBe('SIGN_IN_NEEDED');
    const late = new RawProgram(house.liveUrl);
    late.socket.on('open', () => undefined);
    late.socket.send(await late.helloWith(waiting, makeKeys()));
    expect((await late.closed).reason).toBe('PASS_INVALID');
    const other = await new RawProgram(house.liveUrl).comeIn(await there.livePass(id));
    expect(other.socket.readyState).toBe(1);
    // And from the list: all but this one.
    const third = await house.signedIn();
    const thirds = await new RawProgram(house.liveUrl).comeIn(await third.livePass(id));
    await third.endSignIns('all-others');
    await expect(there.me()).rejects.toMatchObject({ code: 'SIGN_IN_NEEDED' });
    expect((await third.me()).name).toBe('Pim Aldersey');
    thirds.socket.close();
  });
});
