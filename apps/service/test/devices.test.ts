import { DAY_MS } from '@porch/core';
import { deviceGreeting, errorCatalogue, makeKeys, signBytes, ToDevice, type KeepDeviceBody } from '@porch/wire';
import { House, RawProgram, until, failure } from '@porch/testkit';
import { fetchExchange, RestClient } from '@porch/client';
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { WebSocket } from 'ws';

/* Devices at the service: what it writes down, whom it believes, and what it does with nonsense. */
let house: House;
beforeAll(async () => {
  house = await House.open({ hasTickets: true, env: { PORCH_STANDING_CONSENT_DAYS: '30' } });
});
afterAll(() => house.close());

const consentFor = (days: number, name = 'saltby-kiosk-3'): KeepDeviceBody['consent'] => ({
  name,
  allowed: ['view-screen'],
  madeAtMs: Date.now(),
  untilMs: Date.now() + days * DAY_MS,
  asksEachVisit: true,
});

/** A session with a Doorstep of the test's own that has allowed a device to be kept, by its own signed grant. */
async function keeping(name?: string) {
  const { started, technician, link, customerRest } = await house.sessionUnderWay('Pim Aldersey', 'MF-204');
  const rest = new RestClient(fetchExchange(house.url));
  rest.token = (await rest.join({ link, as: 'doorstep' })).token;
  const keys = makeKeys();
  const keep = (consent = consentFor(7, name)) => rest.keepDevice({ consent, signKey: keys.signKey });
  const comeIn = async () => new RawProgram(house.liveUrl).comeIn(await rest.doorLive(), keys);
  return { started, technician, keep, comeIn, keys, customerRest };
}
/** Writes the grant into the records as if the customer had given it: the rest of this file is about what comes after. */
async function keptDevice(name: string) {
  const keys = makeKeys();
  const id = randomUUID();
  await house.query(
    `INSERT INTO "device" ("id", "name", "sign_key", "customer_name", "customer_address", "language", "allowed", "asks_each_visit", "made_in_session", "made_at", "until_at")
     VALUES ($1, $2, $3, 'Ada Quillfeather', '', 'en', '{view-screen}', true, $4, clock_timestamp(), clock_timestamp() + interval '7 days')`,
    [id, name, keys.signKey, randomUUID()],
  );
  return { id, keys };
}

class Device {
  readonly socket = new WebSocket(`${house.url.replace('http', 'ws')}/devices`);
  readonly said: ToDevice[] = [];
  closeCode: number | undefined;

  constructor() {
    this.socket.on('message', (data: Buffer) => this.said.push(ToDevice.parse(JSON.parse(data.toString()))));
    this.socket.on('close', (code) => (this.closeCode = code));
    this.socket.on('error', () => undefined);
  }
  async greet(id: string, keys: ReturnType<typeof makeKeys>, nonce?: string): Promise<void> {
    const challenge = await until('the challenge', () => this.said.find((m) => m.type === 'challenge'));
    const signature = signBytes(keys, deviceGreeting(id, nonce ?? challenge.nonce));
    this.socket.send(JSON.stringify({ type: 'hello', deviceId: id, signature }));
  }
  has = (type: ToDevice['type']) => this.said.some((m) => m.type === type);
}
const closed = (device: Device, code: keyof typeof errorCatalogue) =>
  until(`the end with ${code}`, () => device.closeCode === errorCatalogue[code].closeCode);

it('keeps no device without the customer’s grant, for longer than the desk allows, or for a page', async () => {
  const { keep, comeIn, customerRest } = await keeping();
  expect(await failure(keep()), 'a pass that nobody came in by').toBe('NOT_THE_CONSENT_HOLDER');
  await comeIn();
  expect(await failure(keep())).toBe('DEVICE_NOT_KEPT');
  expect(await failure(customerRest.keepDevice({ consent: consentFor(7), signKey: makeKeys().signKey }))).toBe(
    'PASS_NOT_FOR_THIS',
  );
  expect(await failure(keep({ ...consentFor(7), allowed: ['fetch-files'] }))).toBe('INVALID_REQUEST');
  expect(await failure(keep(consentFor(91)))).toBe('INVALID_REQUEST');
});

describe('the socket of devices', () => {
  it('lets in who signs its fresh nonce, says who is on, and passes a knock on to that device alone', async () => {
    const rest = await house.signedIn();
    const [one, other] = [await keptDevice('one'), await keptDevice('other')];
    expect(await failure(rest.start({ deviceId: one.id }))).toBe('DEVICE_OFFLINE');
    const [first, second] = [new Device(), new Device()];
    await first.greet(one.id, one.keys);
    await second.greet(other.id, other.keys);
    await until('both to be welcome', () => first.has('welcome') && second.has('welcome'));
    first.socket.send(JSON.stringify({ type: 'presence', isInUse: true }));
    const stateOf = async (name: string) => (await rest.devices()).find((d) => d.name === name)?.state;
    await until('the one to be in use', async () => (await stateOf('one')) === 'in-use');
    expect(await stateOf('other')).toBe('away');
    const { session } = await rest.start({ deviceId: one.id, ticketRef: 'MF-204' });
    await until('the knock', () => first.has('visit'));
    expect(second.has('visit')).toBe(false);
    const knock = first.said.find((m) => m.type === 'visit');
    expect(knock).toMatchObject({ sessionId: session.id, technicianName: 'Pim Aldersey' });
    first.socket.send(JSON.stringify({ type: 'visitNotTaken', sessionId: session.id, why: 'busy' }));
    await until(
      'the technician to read why',
      async () => (await house.query(`SELECT seq FROM "session" WHERE id = $1`, [session.id]))[0]?.['seq'] === 5,
    );
    // Somebody else's device has no say in that session.
    second.socket.send(JSON.stringify({ type: 'visitNotTaken', sessionId: session.id, why: 'ended' }));
    first.socket.close();
    await until('the one to be off', async () => (await stateOf('one')) === 'offline');
    expect((await house.query(`SELECT seq FROM "session" WHERE id = $1`, [session.id]))[0]?.['seq']).toBe(5);
    expect(await failure((await house.signedIn('Noor Castellane')).start({ deviceId: other.id }))).toBe(
      'NOT_ALLOWED_BY_DESK',
    );
    second.socket.close();
  });

  it('turns away wrong keys, old nonces, nonsense, and who says too much or nothing of the protocol', async () => {
    const kept = await keptDevice('guarded');
    const before = new Device();
    await until('a challenge', () => before.has('challenge'));
    const old = before.said.find((m) => m.type === 'challenge')?.nonce ?? '';
    const tries: [(device: Device) => Promise<void> | void, keyof typeof errorCatalogue][] = [
      [(d) => d.greet(kept.id, makeKeys()), 'DEVICE_NOT_FOUND'],
      [(d) => d.greet(kept.id, kept.keys, old), 'DEVICE_NOT_FOUND'],
      [(d) => d.greet(randomUUID(), kept.keys), 'DEVICE_NOT_FOUND'],
      [(d) => d.socket.send(JSON.stringify({ type: 'presence', isInUse: true })), 'OUT_OF_ORDER'],
      [(d) => d.socket.send('{"type":'), 'MESSAGE_INVALID'],
      [(d) => d.socket.send(JSON.stringify({ type: 'hello', deviceId: 'x' })), 'MESSAGE_INVALID'],
      [(d) => d.socket.send(Buffer.from([0, 1, 2, 255])), 'MESSAGE_INVALID'],
    ];
    for (const [act, code] of tries) {
      const device = new Device();
      await until('a challenge', () => device.has('challenge'));
      await act(device);
      await closed(device, code);
      expect(device.has('welcome')).toBe(false);
    }
    const large = new Device();
    await until('a challenge', () => large.has('challenge'));
    large.socket.send('x'.repeat(9_000));
    await until('the end', () => large.closeCode === 1009);
    const chatty = new Device();
    await chatty.greet(kept.id, kept.keys);
    await until('the welcome', () => chatty.has('welcome'));
    for (let i = 0; i < 60; i++) chatty.socket.send(JSON.stringify({ type: 'presence', isInUse: i % 2 === 0 }));
    await closed(chatty, 'TOO_MANY_MESSAGES');
    before.socket.close();
  });

  it('tells a device that was given up while it was off, as soon as it is on, and only then', async () => {
    const rest = await house.signedIn();
    const kept = await keptDevice('given-up');
    await rest.forgetDevice(kept.id);
    expect(await failure(rest.start({ deviceId: kept.id }))).toBe('DEVICE_NOT_FOUND');
    const device = new Device();
    await device.greet(kept.id, kept.keys);
    await until('it to hear of it', () => device.has('forget'));
    // Not who cannot show that they are it: nobody learns what was ended.
    const stranger = new Device();
    await stranger.greet(kept.id, makeKeys());
    await closed(stranger, 'DEVICE_NOT_FOUND');
    expect(stranger.has('forget')).toBe(false);
    expect((await rest.devices('given-up'))[0]?.ended?.how).toBe('by-the-desk');
  });

  it('ends what ran out by itself, and lists nothing of it any longer', async () => {
    const rest = await house.signedIn();
    const kept = await keptDevice('ran-out');
    await house.query(`UPDATE "device" SET "until_at" = clock_timestamp() WHERE id = $1`, [kept.id]);
    await until('its end', async () => {
      const [row] = await house.query(`SELECT "ended_how" AS how FROM "device" WHERE id = $1`, [kept.id]);
      return row?.['how'] === 'ran-out';
    });
    expect((await rest.devices()).some((d) => d.id === kept.id)).toBe(false);
  });
});
