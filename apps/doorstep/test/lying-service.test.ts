import {
  evolveSession,
  newSession,
  appendRow,
  ZERO_HASH,
  type LedgerRow,
  type SessionEvent,
  type SessionState,
} from '@porch/core';
import { endProcess, PersonAtDesk, startDesktop, type XDesktop } from '@porch/demo';
import {
  AppError,
  decodeFrame,
  decodeWords,
  inputChannel,
  encodeLedgerRow,
  encodeWords,
  makeKeys,
  PairwiseChannel,
  signGrant,
  splitEvent,
  type InputMessage,
  type ParticipantKeys,
} from '@porch/wire';
import { House, until } from '@porch/testkit';
import type { ChildProcess } from 'node:child_process';
import { createServer, type Server } from 'node:http';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { WebSocketServer, type WebSocket } from 'ws';

const SESSION = '00000000-0000-4000-8000-0000000000aa';
const TECHNICIAN = '00000000-0000-4000-8000-0000000000bb';
const DOORSTEP = '00000000-0000-4000-8000-0000000000cc';
const ASK = '00000000-0000-4000-8000-0000000000dd';

/** A service in an enemy's hands: says whatever it likes, with ledger rows that agree among themselves. */
class LyingService {
  readonly #server: Server;
  readonly #sockets: WebSocketServer;
  readonly received: { type: string; command?: { type: string } }[] = [];
  readonly opened: InputMessage[] = [];
  readonly technicianKeys: ParticipantKeys = makeKeys();
  holderKeys = { signKey: '', agreeKey: '', startId: '' };
  socket: WebSocket | undefined;
  doorstep: ChildProcess | undefined;
  updates = 0;
  channel: PairwiseChannel | undefined;
  #rows: LedgerRow[] = [];
  state: SessionState = newSession;

  private constructor(server: Server) {
    this.#server = server;
    this.#sockets = new WebSocketServer({ server, path: '/live' });
    this.#sockets.on('connection', (socket) => {
      socket.send(JSON.stringify({ type: 'challenge', nonce: 'ab'.repeat(32) }));
      this.socket = socket;
      socket.on('message', (data: Buffer, isBinary) =>
        isBinary ? this.#takeFrame(data) : this.#take(JSON.parse(data.toString()) as never),
      );
    });
  }

  static async open(): Promise<LyingService> {
    const server = createServer((request, response) => {
      request.resume();
      const port = (server.address() as { port: number }).port;
      const door = {
        sessionId: SESSION,
        technicianName: 'Pim Aldersey',
        deskName: 'Marrowick Ferries',
        deskPhone: '',
        purpose: 'x',
        behind: 'ticket',
        language: 'en',
        customerName: 'Bettina Crole',
        customerAddress: '',
        phase: 'live',
        noticeVersion: '1',
        notice: { en: 'x', nb: 'x', de: 'x' },
        controlNeedsComparedWords: false,
        standingConsentDays: 90,
        awayAfterMs: 600_000,
        doorstepLink: '',
      };
      const answer = request.url?.endsWith('/door/passes')
        ? { door, token: 't' }
        : { pass: 'p', sessionId: SESSION, liveUrl: `ws://127.0.0.1:${port}/live` };
      response.setHeader('content-type', 'application/json').end(JSON.stringify(answer));
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    return new LyingService(server);
  }
  get url(): string {
    return `http://127.0.0.1:${(this.#server.address() as { port: number }).port}`;
  }

  claim(...events: SessionEvent[]): void {
    const rows = events.map((event) => {
      const { header, body } = splitEvent(event, this.#rows.length + 1, Date.now(), SESSION);
      const row = appendRow(
        this.#rows.at(-1)?.hash ?? ZERO_HASH,
        this.#rows.length + 1,
        header,
        body,
        new Uint8Array(16),
      );
      this.#rows.push(row);
      this.state = evolveSession(this.state, event, Date.now());
      return encodeLedgerRow(row);
    });
    this.socket?.send(JSON.stringify({ type: 'entries', rows }));
  }
  seal(message: InputMessage, channel = this.channel): Uint8Array {
    if (!channel) throw new Error('no channel yet');
    return channel.seal(encodeWords(message), 0, 1);
  }
  send(bytes: Uint8Array): void {
    this.socket?.send(bytes);
  }
  /** All that was said so far has been handled: what is sent after it cannot overtake it. */
  async settled(): Promise<void> {
    await new Promise((resolve) => setTimeout(resolve, 400)); // Nothing is expected to happen, so there is nothing to wait for.
  }
  /** Each lie has the desktop to itself. */
  async close(): Promise<void> {
    if (this.doorstep) await endProcess(this.doorstep);
    this.#sockets.clients.forEach((s) => s.terminate());
    this.#sockets.close();
    this.#server.close();
  }

  #take(message: {
    type: string;
    id?: string;
    signKey?: string;
    agreeKey?: string;
    startId?: string;
    command?: { type: string };
  }): void {
    this.received.push(message);
    if (message.type === 'hello') {
      const { signKey = '', agreeKey = '', startId = '' } = message;
      this.holderKeys = { signKey, agreeKey, startId };
      this.socket?.send(
        JSON.stringify({
          type: 'welcome',
          version: 1,
          sessionId: SESSION,
          participantId: DOORSTEP,
          seat: 2,
          role: 'doorstep',
          ownerEpoch: 1,
          nowMs: Date.now(),
          commandWindow: 16,
        }),
      );
      this.claim(
        {
          type: 'sessionPrepared',
          by: 'technician:pim',
          technicianId: 'pim',
          behind: 'ticket',
          language: 'en',
          personal: { technicianName: 'Pim Aldersey', purpose: 'x', customerName: 'Bettina Crole' },
        },
        {
          type: 'participantJoined',
          by: TECHNICIAN,
          participantId: TECHNICIAN,
          seat: 1,
          role: 'technician',
          technicianId: 'pim',
          signKey: this.technicianKeys.signKey,
          agreeKey: this.technicianKeys.agreeKey,
          startId: this.technicianKeys.startId,
          way: 'sign-in',
          personal: { name: 'Pim Aldersey' },
        },
        {
          type: 'participantJoined',
          by: DOORSTEP,
          participantId: DOORSTEP,
          seat: 2,
          role: 'doorstep',
          ...this.holderKeys,
          way: 'link',
        },
        { type: 'customerAccepted', by: DOORSTEP, noticeVersion: '1' },
      );
      this.channel = new PairwiseChannel({
        sessionId: SESSION,
        mine: this.technicianKeys,
        mySeat: 1,
        theirAgreeKey: this.holderKeys.agreeKey,
        theirStartId: this.holderKeys.startId,
        theirSeat: 2,
        channel: 'input',
      });
      this.socket?.send(JSON.stringify({ type: 'caughtUp' }));
    } else if (message.type === 'command') this.socket?.send(JSON.stringify({ type: 'accepted', id: message.id }));
    else if (message.type === 'beat') this.socket?.send(JSON.stringify({ type: 'beat', sentAtMs: Date.now() }));
  }
  #takeFrame(data: Buffer): void {
    const { channel } = decodeFrame(data);
    if (channel === 'screen') this.updates++;
    if (channel !== 'input') return;
    try {
      const message = this.channel && decodeWords(inputChannel, this.channel.open(data).plain);
      if (message) this.opened.push(message);
    } catch (error) {
      if (!(error instanceof AppError)) throw error;
    }
  }
}

let house: House;
let desktop: XDesktop;
let person: PersonAtDesk;
beforeAll(async () => {
  house = await House.open();
  desktop = await startDesktop(house.processes, { name: 'lies', home: `${house.folder}/lies`, programs: 'none' });
  person = await PersonAtDesk.at(desktop.display);
});
afterAll(async () => {
  person.close();
  await house.close();
});

async function joined(): Promise<LyingService> {
  const lying = await LyingService.open();
  lying.doorstep = house.startDoorstep(desktop, `${lying.url}/join/token`);
  await until('Doorstep at the lying service', () => lying.channel);
  return lying;
}
/** The person's real yes, so that a lease can be opened rightly: then the lies are about the rest. */
async function withControl(): Promise<{ lying: LyingService; lease: string }> {
  const lying = await joined();
  lying.claim({
    type: 'permissionsAsked',
    by: TECHNICIAN,
    askId: ASK,
    participantId: TECHNICIAN,
    permissions: ['view-screen', 'control-input'],
    expiresAtMs: Date.now() + 60_000,
  });
  await person.answer(true, 1_100);
  await until('the signed grants', () => lying.received.some((m) => m.command?.type === 'grantAsk'));
  lying.socket?.send(JSON.stringify({ type: 'viewers', viewers: [{ seat: 1, displays: [0] }] }));
  await until('the picture', () => lying.updates > 0);
  lying.send(lying.seal({ type: 'openLease' }));
  const opened = await until('the lease', () => lying.opened.find((m) => m.type === 'leaseOpened'));
  return { lying, lease: opened.type === 'leaseOpened' ? opened.lease : '' };
}
const press = (lease: string, number: number): InputMessage => ({
  type: 'input',
  lease,
  number,
  aimedAtUpdate: 1_000_000,
  act: { act: 'key', key: 'Shift', isDown: true },
});
const nothingPressed = async (lying: LyingService) => {
  await lying.settled();
  expect(await person.keysDown()).toEqual([]);
};

describe('a service in an enemy’s hands', () => {
  it('cannot press a key by saying that the customer agreed', async () => {
    const lying = await joined();
    const signed = signGrant(makeKeys(), {
      sessionId: SESSION,
      permission: 'control-input',
      technicianSignKey: lying.technicianKeys.signKey,
      technicianAgreeKey: lying.technicianKeys.agreeKey,
      number: 1,
      endsAtMs: Date.now() + 1e6,
    });
    for (const permission of ['view-screen', 'control-input'] as const)
      lying.claim({
        type: 'permissionGranted',
        by: DOORSTEP,
        askId: ASK,
        participantId: TECHNICIAN,
        permission,
        grantNumber: 1,
        endsAtMs: Date.now() + 1e6,
        grant: signed.statement,
        signature: signed.signature,
      });
    lying.socket?.send(JSON.stringify({ type: 'viewers', viewers: [{ seat: 1, displays: [0] }] }));
    lying.send(lying.seal({ type: 'openLease' }));
    lying.send(lying.seal(press('made up', 1)));
    await nothingPressed(lying);
    expect(lying.opened, 'no lease is opened').toEqual([]);
    await lying.close();
  });

  it('cannot replay, skip or forge what a technician sealed, nor go on after the lease has ended', async () => {
    const { lying, lease } = await withControl();
    // Their own hand was just at the mouse, and it may be heard of late: what comes within a second of it is not pressed.
    let number = 0;
    let last: Uint8Array = new Uint8Array(0);
    await until('the real key', async () => {
      last = lying.seal(press(lease, ++number));
      lying.send(last);
      await lying.settled();
      return (await person.keysDown()).length > 0;
    });
    lying.send(
      lying.seal({ ...press(lease, ++number), act: { act: 'key', key: 'Shift', isDown: false } } as InputMessage),
    );
    await until('it to be let go', async () => (await person.keysDown()).length === 0);
    lying.send(last);
    await nothingPressed(lying);
    const forger = new PairwiseChannel({
      sessionId: SESSION,
      mine: makeKeys(),
      mySeat: 1,
      theirAgreeKey: lying.holderKeys.agreeKey,
      theirStartId: lying.holderKeys.startId,
      theirSeat: 2,
      channel: 'input',
    });
    lying.send(lying.seal(press(lease, number + 1), forger));
    await nothingPressed(lying);
    lying.send(lying.seal(press(lease, number + 2)));
    await nothingPressed(lying);
    await until('the lease to end', () => lying.opened.some((m) => m.type === 'leaseClosed'));
    lying.send(lying.seal(press(lease, number + 1)));
    await nothingPressed(lying);
    await lying.close();
  });

  it('cannot use a grant for another key by putting that key in the same technician’s place', async () => {
    const { lying } = await withControl();
    const other = makeKeys();
    const impostor = '00000000-0000-4000-8000-0000000000ee';
    lying.claim({
      type: 'participantJoined',
      by: impostor,
      participantId: impostor,
      seat: 3,
      role: 'technician',
      technicianId: 'pim',
      signKey: other.signKey,
      agreeKey: other.agreeKey,
      startId: other.startId,
      way: 'sign-in',
      personal: { name: 'Pim Aldersey' },
    });
    const channel = new PairwiseChannel({
      sessionId: SESSION,
      mine: other,
      mySeat: 3,
      theirAgreeKey: lying.holderKeys.agreeKey,
      theirStartId: lying.holderKeys.startId,
      theirSeat: 2,
      channel: 'input',
    });
    const openedBefore = lying.opened.length;
    lying.send(lying.seal({ type: 'openLease' }, channel));
    await nothingPressed(lying);
    expect(lying.opened.length).toBe(openedBefore);
    await lying.close();
  });

  it('cannot keep the picture coming after the person pressed Stop', async () => {
    const { lying } = await withControl();
    await person.pressStop();
    await until('the bar to go and the fact to be told', () =>
      lying.received.some((m) => m.command?.type === 'endSession'),
    );
    lying.socket?.send(JSON.stringify({ type: 'viewers', viewers: [{ seat: 1, displays: [0] }] }));
    let frames = 0;
    lying.socket?.on('message', (_data: Buffer, isBinary) => (frames += isBinary ? 1 : 0));
    await lying.settled();
    expect(frames).toBe(0);
    await lying.close();
  });
});
