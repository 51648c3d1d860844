import { appendRow, ZERO_HASH, type LedgerRow, type SessionEvent } from '@porch/core';
import { until } from '@porch/testkit';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import {
  encodeLedgerRow,
  HEARTBEAT_MS,
  makeKeys,
  realClock,
  SILENCE_MS,
  splitEvent,
  type ClientMessage,
  type Clock,
  type ConnectionPass,
  type ServerMessage,
} from '@porch/wire';
import { describe, expect, it } from 'vitest';
import { LiveConnection, type SocketLike } from '../src/index.ts';

const SESSION = '00000000-0000-4000-8000-000000000001';
const ME = '00000000-0000-4000-8000-000000000002';

/** A socket whose other end is the test. */
class FakeSocket implements SocketLike {
  binaryType = '';
  bufferedAmount = 0;
  onopen: ((event: never) => void) | null = null;
  onmessage: ((event: never) => void) | null = null;
  onclose: ((event: never) => void) | null = null;
  onerror: ((event: never) => void) | null = null;
  readonly sent: ClientMessage[] = [];
  closedWith: string | undefined;

  send(data: string | Uint8Array): void {
    if (typeof data === 'string') this.sent.push(JSON.parse(data) as ClientMessage);
  }
  close(_code?: number, reason = ''): void {
    this.closedWith = reason;
    this.drop(reason);
  }
  drop(reason = ''): void {
    this.onclose?.({ code: 4000, reason } as never);
  }
  open(): void {
    this.onopen?.(undefined as never);
  }
  tell(message: ServerMessage | string): void {
    this.onmessage?.({ data: typeof message === 'string' ? message : JSON.stringify(message) } as never);
  }
  ofType<T extends ClientMessage['type']>(type: T) {
    return this.sent.filter((m): m is Extract<ClientMessage, { type: T }> => m.type === type);
  }
}

function chain(texts: readonly string[], from: readonly LedgerRow[] = []): LedgerRow[] {
  const rows = [...from];
  for (const text of texts) {
    const event: SessionEvent = { type: 'chatSent', by: ME, messageId: SESSION, personal: { text } };
    const { header, body } = splitEvent(event, rows.length + 1, 5, SESSION);
    rows.push(appendRow(rows.at(-1)?.hash ?? ZERO_HASH, rows.length + 1, header, body, new Uint8Array(16)));
  }
  return rows;
}
const welcome = (ownerEpoch = 1): ServerMessage => ({
  type: 'welcome',
  version: 1,
  sessionId: SESSION,
  participantId: ME,
  seat: 3,
  ownerEpoch,
  nowMs: Date.now(),
  commandWindow: 4,
});
const entries = (rows: readonly LedgerRow[]): ServerMessage => ({ type: 'entries', rows: rows.map(encodeLedgerRow) });

/** The middle of every jitter, and each id once. */
let made = 0;
const random = {
  bytes: (count: number) => Uint8Array.from({ length: count }, (_, i) => (i === 0 ? 128 : i > 1 ? ++made : 0)),
};

function connect(clock: Clock = realClock, pass?: () => Promise<ConnectionPass>) {
  const sockets: FakeSocket[] = [];
  const connection = new LiveConnection({
    clock,
    random,
    pass: pass ?? (() => Promise.resolve({ pass: `p${sockets.length}`, sessionId: SESSION, liveUrl: 'ws://test' })),
    openSocket: () => {
      const socket = new FakeSocket();
      sockets.push(socket);
      return socket;
    },
    keys: makeKeys(),
  });
  const nth = (n: number) => until(`socket ${n}`, () => sockets[n]);
  const come = async (n: number, rows: readonly LedgerRow[] = [], epoch = 1) => {
    const socket = await nth(n);
    socket.open();
    socket.tell({ type: 'challenge', nonce: 'ab'.repeat(32) });
    socket.tell(welcome(epoch));
    if (rows.length) socket.tell(entries(rows));
    socket.tell({ type: 'caughtUp' });
    return socket;
  };
  return { connection, come, nth, sockets };
}

describe('a live connection', () => {
  it('goes on after the last entry it has, and says which that is', async () => {
    const { connection, come } = connect();
    const rows = chain(['a', 'b']);
    const first = await come(0, rows);
    first.drop();
    expect(connection.status).toBe('waiting');
    const second = await come(1, chain(['c'], rows).slice(2));
    expect(second.ofType('hello')[0]).toMatchObject({ lastSeq: 2, pass: 'p1' });
    expect(connection.entries.map((e) => (e.event.type === 'chatSent' ? e.event.personal?.text : ''))).toEqual([
      'a',
      'b',
      'c',
    ]);
    connection.close();
  });

  it('sends a command again under the same id until it has an answer, and not after', async () => {
    const { connection, come } = connect();
    const first = await come(0);
    const answered = connection.command({ type: 'sendChat', messageId: SESSION, text: 'hello' });
    const [sent] = first.ofType('command');
    first.drop();
    const second = await come(1);
    expect(second.ofType('command')).toEqual([sent]);
    second.tell({ type: 'accepted', id: sent?.id ?? '' });
    await answered;
    second.drop();
    expect((await come(2)).ofType('command')).toEqual([]);
    connection.close();
  });

  it('gives what was said while the line was gone to the next one, in order', async () => {
    const { connection, come, nth } = connect();
    void connection.command({ type: 'sendChat', messageId: SESSION, text: 'one' }).catch(() => undefined);
    void connection.command({ type: 'sendChat', messageId: SESSION, text: 'two' }).catch(() => undefined);
    expect((await nth(0)).ofType('command')).toEqual([]);
    const socket = await come(0);
    expect(socket.ofType('command').map((c) => (c.command.type === 'sendChat' ? c.command.text : ''))).toEqual([
      'one',
      'two',
    ]);
    connection.close();
  });

  it('stops trusting a ledger that does not continue the one it knows', async () => {
    for (const lie of [
      chain(['a', 'x']).slice(1),
      chain(['a', 'b', 'c']).slice(2),
      chain(['q'], chain(['a']))
        .map((r) => ({ ...r, hash: r.bodyHash }))
        .slice(1),
    ]) {
      const { connection, come } = connect();
      const failed = new Promise<string>((resolve) => connection.on('failed', (e) => resolve(e.code)));
      const socket = await come(0, chain(['z']));
      socket.tell(entries(lie));
      expect(await failed).toBe('OUT_OF_ORDER');
      expect(connection.status).toBe('closed');
    }
  });

  it('refuses an owner from before', async () => {
    const { connection, come, nth } = connect();
    (await come(0, [], 5)).drop();
    const second = await nth(1);
    second.open();
    second.tell(welcome(4));
    expect(second.closedWith).toBe('MESSAGE_INVALID');
    connection.close();
  });

  it('ends for good when it is told so, and rejects what still waits', async () => {
    const { connection, come } = connect();
    const socket = await come(0);
    const waiting = connection.command({ type: 'askToTry' });
    socket.drop('NOT_PRESENT');
    await expect(waiting).rejects.toMatchObject({ code: 'NOT_PRESENT' });
    await expect(connection.command({ type: 'askToTry' })).rejects.toMatchObject({ code: 'NOT_PRESENT' });
  });

  it.each(['{', '{"kind":"surprise"}', '{"type":"entries","rows":[{}]}'])(
    'survives %s from the other side',
    async (nonsense) => {
      const { connection, come } = connect();
      const socket = await come(0);
      socket.tell(nonsense);
      expect(socket.closedWith).toBe('MESSAGE_INVALID');
      expect(connection.status).toBe('waiting');
      connection.close();
    },
  );

  it('drops frames without a line instead of keeping them', async () => {
    const { connection, come } = connect();
    expect(connection.sendFrame(new Uint8Array(4))).toBe(false);
    await come(0);
    expect(connection.sendFrame(new Uint8Array(4))).toBe(true);
    connection.close();
    connection.close();
    expect(connection.sendFrame(new Uint8Array(4))).toBe(false);
  });
});

describe('a ledger that a later release wrote into', () => {
  /** The rows of one chat line and then of an event that this release does not know. */
  function later(type: string): LedgerRow[] {
    const rows = chain(['Hello']);
    const header = { v: 1, sessionId: SESSION, seq: 2, atMs: 6, type, by: ME, what: 'it did' };
    return [...rows, appendRow(rows[0]?.hash ?? ZERO_HASH, 2, header, {}, new Uint8Array(16))];
  }
  it('goes on where it is one ability’s, with its bytes in the chain', async () => {
    const { connection, come } = connect();
    await come(0, chain(['and on'], later('whiteboard/drawn')));
    await until('all of it', () => connection.entries.length === 3);
    expect(connection.entries[1]?.event).toMatchObject({ type: 'notUnderstood', what: 'whiteboard/drawn' });
    expect(connection.state.notUnderstood).toEqual(['whiteboard/drawn']);
    expect(connection.status).toBe('live');
    connection.close();
  });
  it('ends where everybody has to understand it: the program says that it is too old, and does nothing more', async () => {
    const { connection, come } = connect();
    const failed = new Promise<string>((resolve) => connection.on('failed', ({ code }) => resolve(code)));
    come(0, later('everythingForbidden')).catch(() => undefined); // It is not let in to the end.
    expect(await failed).toBe('PROTOCOL_VERSION');
    await expect(connection.command({ type: 'askToTry' })).rejects.toMatchObject({ code: 'NOT_PRESENT' });
  });
});

describe('time', () => {
  const settled = async () => {
    for (let i = 0; i < 10; i++) await Promise.resolve(); // A pass is there at once; only time is waited for.
  };
  async function inVirtualTime() {
    const clock = new VirtualClock();
    const { connection, sockets } = connect(clock);
    const pass = async (ms: number) => {
      clock.advance(ms);
      await settled();
    };
    await settled();
    const welcomed = (socket: FakeSocket | undefined) => {
      socket?.tell({ type: 'challenge', nonce: 'ab'.repeat(32) });
      socket?.tell(welcome());
      socket?.tell({ type: 'caughtUp' });
    };
    return { connection, sockets, pass, welcomed };
  }

  it('passes twice as long before each try, up to two seconds, and is short again after one that came through', async () => {
    const { connection, sockets, pass, welcomed } = await inVirtualTime();
    for (const waitMs of [250, 500, 1_000, 2_000, 2_000]) {
      const { length } = sockets;
      sockets.at(-1)?.drop();
      await pass(waitMs - 1);
      expect(sockets.length, `before ${waitMs} ms`).toBe(length);
      await pass(1);
      expect(sockets.length, `after ${waitMs} ms`).toBe(length + 1);
    }
    welcomed(sockets.at(-1));
    expect(connection.status).toBe('live');
    const { length } = sockets;
    sockets.at(-1)?.drop();
    await pass(250);
    expect(sockets.length).toBe(length + 1);
    connection.close();
    await pass(60_000);
    expect(sockets.length, 'a closed connection tries nothing').toBe(length + 1);
  });

  it('is said to the service as long as both are there; a silent one is given up, and what it says then is nobody’s', async () => {
    const { connection, sockets, pass, welcomed } = await inVirtualTime();
    const [first] = sockets;
    welcomed(first);
    for (let heardForMs = 0; heardForMs < 5 * SILENCE_MS; heardForMs += HEARTBEAT_MS) {
      await pass(HEARTBEAT_MS);
      first?.tell({ type: 'beat', sentAtMs: 0 });
    }
    expect([connection.status, first?.ofType('beat').length]).toEqual(['live', 18]);
    await pass(SILENCE_MS + HEARTBEAT_MS);
    expect([connection.status, first?.closedWith]).toEqual(['waiting', 'SILENT']);
    first?.tell({ type: 'caughtUp' });
    expect(connection.status).toBe('waiting');
    connection.close();
  });

  it('is not spent on a socket that neither opens nor refuses, nor on a pass that never comes', async () => {
    const { connection, sockets, pass } = await inVirtualTime();
    await pass(12_000);
    expect([sockets[0]?.closedWith, sockets.length]).toEqual(['SILENT', 2]);
    connection.close();

    const clock = new VirtualClock();
    let asked = 0;
    const never = connect(clock, () => (asked++, new Promise(() => undefined)));
    await settled();
    clock.advance(10_250);
    await settled();
    clock.advance(250);
    await settled();
    expect([asked, never.connection.status]).toEqual([2, 'waiting']);
    never.connection.close();
  });
});
