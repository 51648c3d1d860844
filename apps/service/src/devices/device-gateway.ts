import { randomBytes } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import type { Duplex } from 'node:stream';
import {
  AppError,
  DEVICE_SILENCE_MS,
  deviceGreeting,
  errorCatalogue,
  FromDevice,
  HELLO_MS,
  isSignedBy,
  MAX_DEVICE_MESSAGE_BYTES,
  type ErrorCode,
  type ToDevice,
} from '@porch/wire';
import type { FastifyBaseLogger } from 'fastify';
import { WebSocketServer, type WebSocket } from 'ws';
import { TokenBucket } from '../live/token-bucket.ts';
import type { DeviceDesk, Presence } from './device-desk.ts';

/** Sockets at once; more are turned away before they cost anything. */
const MAX_DEVICE_SOCKETS = 5_000;
/** What a device may say: a word on whether it is in use now and then, and little else. */
const MESSAGES_PER_SECOND = 2;
const MESSAGES_AT_ONCE = 20;

interface Connected {
  readonly socket: WebSocket;
  isInUse: boolean;
}

/** The sockets of devices that wait: who is on, who is in use, and the knock at their doors. */
export class DeviceGateway {
  readonly #server = new WebSocketServer({
    noServer: true,
    maxPayload: MAX_DEVICE_MESSAGE_BYTES,
    perMessageDeflate: false,
  });
  readonly #on = new Map<string, Connected>();
  readonly #log: FastifyBaseLogger;
  readonly #onChanged: () => void;
  #devices: DeviceDesk | undefined;

  constructor(log: FastifyBaseLogger, onChanged: () => void) {
    this.#log = log;
    this.#onChanged = onChanged;
  }

  /** From here on devices are let in. */
  serve(devices: DeviceDesk): void {
    this.#devices = devices;
  }

  presenceOf = (deviceId: string): Presence => {
    const device = this.#on.get(deviceId);
    return device && (device.isInUse ? 'in-use' : 'away');
  };

  /** False when the device is not on. */
  tell(deviceId: string, message: ToDevice): boolean {
    const device = this.#on.get(deviceId);
    if (device) send(device.socket, message);
    return device !== undefined;
  }

  handleUpgrade(request: IncomingMessage, socket: Duplex, head: Buffer): void {
    const devices = this.#devices;
    if (!devices || this.#server.clients.size >= MAX_DEVICE_SOCKETS) {
      socket.end('HTTP/1.1 503 Service Unavailable\r\nConnection: close\r\n\r\n');
      return;
    }
    this.#server.handleUpgrade(request, socket, head, (webSocket) => this.#meet(webSocket, devices));
  }

  close(): void {
    this.#devices = undefined;
    for (const socket of this.#server.clients) socket.close(errorCatalogue.STOPPING.closeCode, 'STOPPING');
    this.#server.close();
  }

  #meet(socket: WebSocket, devices: DeviceDesk): void {
    const nonce = randomBytes(32).toString('hex');
    const bucket = new TokenBucket(MESSAGES_PER_SECOND, MESSAGES_AT_ONCE);
    let id: string | undefined;
    let heardAtMs = Date.now();
    let work: Promise<void> = Promise.resolve();
    const fail = (error: unknown) => {
      const code: ErrorCode = error instanceof AppError ? error.code : 'INTERNAL';
      if (code === 'INTERNAL') this.#log.error({ err: error }, 'a device could not be served');
      socket.close(errorCatalogue[code].closeCode, code);
    };
    const stranger = setTimeout(() => fail(new AppError('SILENT')), HELLO_MS);
    const silence = setInterval(() => {
      if (Date.now() - heardAtMs > DEVICE_SILENCE_MS) socket.terminate();
    }, DEVICE_SILENCE_MS / 3);
    send(socket, { type: 'challenge', nonce });

    socket.on('message', (data: Buffer) => {
      heardAtMs = Date.now();
      work = work
        .then(async () => {
          if (!bucket.take()) throw new AppError('TOO_MANY_MESSAGES');
          const message = parse(data);
          if (message.type === 'hello') {
            if (id !== undefined) throw new AppError('OUT_OF_ORDER');
            await this.#greet(socket, devices, message, nonce);
            id = message.deviceId;
            clearTimeout(stranger);
            return;
          }
          if (id === undefined) throw new AppError('OUT_OF_ORDER');
          await this.#take(id, devices, message);
        })
        .catch(fail);
    });
    socket.on('error', (error) => this.#log.info({ why: error.message }, 'a device connection broke'));
    socket.on('close', () => {
      clearTimeout(stranger);
      clearInterval(silence);
      if (id === undefined || this.#on.get(id)?.socket !== socket) return;
      this.#on.delete(id);
      devices
        .seen(id)
        .catch((error: unknown) => this.#log.warn({ why: String(error) }, 'a device was not written down'));
      this.#onChanged();
    });
  }

  async #greet(
    socket: WebSocket,
    devices: DeviceDesk,
    hello: Extract<FromDevice, { type: 'hello' }>,
    nonce: string,
  ): Promise<void> {
    const row = await devices.find(hello.deviceId);
    if (!row || !isSignedBy(row.signKey, deviceGreeting(row.id, nonce), hello.signature))
      throw new AppError('DEVICE_NOT_FOUND');
    if (row.endedAt) {
      // It was ended while the device was away: now it hears of it.
      send(socket, { type: 'forget' });
      throw new AppError('DEVICE_NOT_FOUND');
    }
    // A program that starts again takes the place of what is left of it.
    this.#on.get(row.id)?.socket.close(errorCatalogue.REPLACED.closeCode, 'REPLACED');
    this.#on.set(row.id, { socket, isInUse: false });
    send(socket, { type: 'welcome' });
    await devices.seen(row.id);
    this.#onChanged();
  }

  async #take(id: string, devices: DeviceDesk, message: Exclude<FromDevice, { type: 'hello' }>): Promise<void> {
    if (message.type === 'presence') {
      const device = this.#on.get(id);
      if (!device || device.isInUse === message.isInUse) return;
      device.isInUse = message.isInUse;
      this.#onChanged();
    } else if (message.type === 'visitNotTaken') await devices.noteNotTaken(id, message.sessionId, message.why);
    else {
      await devices.end(id, 'at-the-device');
      send(this.#on.get(id)?.socket, { type: 'forget' });
      this.#onChanged();
    }
  }
}

function send(socket: WebSocket | undefined, message: ToDevice): void {
  if (socket?.readyState === socket?.OPEN) socket?.send(JSON.stringify(message));
}

function parse(data: Buffer): FromDevice {
  try {
    return FromDevice.parse(JSON.parse(data.toString()));
  } catch (cause) {
    throw new AppError('MESSAGE_INVALID', {}, { cause });
  }
}
