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
  type ToDevice,
} from '@porch/wire';
import type { FastifyBaseLogger } from 'fastify';
import { WebSocketServer, type WebSocket } from 'ws';
import type { Background } from '../../module/background.ts';
import { TokenBucket } from '../../sockets/token-bucket.ts';
import { refusalOf } from '../../refusal-of.ts';
import { Strangers } from '../../sockets/strangers.ts';
import { refuseUpgrade } from '../../sockets/upgrades.ts';
import type { Device, DeviceDesk, Presence } from './device-desk.ts';

/** Sockets at once; more are turned away before they cost anything. */
const MAX_DEVICE_SOCKETS = 5_000;
/** What a device may say: a word on whether it is in use now and then, and little else. */
const MESSAGES_PER_SECOND = 2;
const MESSAGES_AT_ONCE = 20;
/** A socket that was told to go is cut after this. */
const CLOSE_MS = 1_000;

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
  readonly #strangers = new Strangers();
  readonly #background: Background;
  readonly #log: FastifyBaseLogger;
  readonly #onChanged: () => void;
  #devices: DeviceDesk | undefined;

  constructor(log: FastifyBaseLogger, background: Background, onChanged: () => void) {
    this.#background = background;
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

  handleUpgrade(request: IncomingMessage, socket: Duplex, head: Buffer, address: string): void {
    const devices = this.#devices;
    if (!devices || this.#server.clients.size >= MAX_DEVICE_SOCKETS) {
      refuseUpgrade(socket, 'busy');
      return;
    }
    const leave = this.#strangers.enter(address, () => socket.destroy());
    if (!leave) {
      refuseUpgrade(socket, 'too many');
      return;
    }
    socket.once('close', leave);
    this.#server.handleUpgrade(request, socket, head, (webSocket) => this.#meet(webSocket, devices, leave));
  }

  close(): void {
    this.#devices = undefined;
    for (const socket of this.#server.clients) socket.close(errorCatalogue.STOPPING.closeCode, 'STOPPING');
    this.#server.close();
  }

  #meet(socket: WebSocket, devices: DeviceDesk, leaveStrangers: () => void): void {
    const nonce = randomBytes(32).toString('hex');
    const bucket = new TokenBucket(MESSAGES_PER_SECOND, MESSAGES_AT_ONCE, () => performance.now());
    let id: string | undefined;
    let isGreeted = false;
    let heardAtMs = performance.now();
    let work: Promise<void> = Promise.resolve();
    const fail = (error: unknown) => {
      const { code } = refusalOf(error);
      if (code === 'INTERNAL') this.#log.error({ err: error }, 'a device could not be served');
      socket.close(errorCatalogue[code].closeCode, code);
      const timer = setTimeout(() => socket.terminate(), CLOSE_MS);
      socket.once('close', () => clearTimeout(timer));
    };
    const stranger = setTimeout(() => fail(new AppError('SILENT')), HELLO_MS);
    const silence = setInterval(() => {
      if (performance.now() - heardAtMs > DEVICE_SILENCE_MS) socket.terminate();
    }, DEVICE_SILENCE_MS / 3);
    send(socket, { type: 'challenge', nonce });

    const take = async (message: FromDevice): Promise<void> => {
      if (message.type !== 'hello') {
        if (id === undefined) throw new AppError('OUT_OF_ORDER');
        return this.#take(id, devices, message);
      }
      const row = await this.#know(socket, devices, message, nonce);
      // Gone while the records were slow: a device that is not there must not be called on.
      if (socket.readyState !== socket.OPEN) return;
      clearTimeout(stranger);
      leaveStrangers();
      // A program that starts again takes the place of what is left of it.
      this.#on.get(row.id)?.socket.close(errorCatalogue.REPLACED.closeCode, 'REPLACED');
      this.#on.set(row.id, { socket, isInUse: false });
      id = row.id;
      send(socket, { type: 'welcome' });
      this.#onChanged();
      await devices.seen(row.id);
    };
    socket.on('message', (data: Buffer) => {
      // What comes behind a close is parsed no further.
      if (socket.readyState !== socket.OPEN) return;
      heardAtMs = performance.now();
      try {
        if (!bucket.take()) throw new AppError('TOO_MANY_MESSAGES');
        const message = parse(data);
        if (message.type === 'hello') {
          if (isGreeted) throw new AppError('OUT_OF_ORDER');
          isGreeted = true;
        } else if (!isGreeted) throw new AppError('OUT_OF_ORDER');
        work = work.then(() => take(message)).catch(fail);
      } catch (error) {
        fail(error);
      }
    });
    socket.on('error', (error: Error & { code?: string }) =>
      this.#log.info({ code: error.code }, 'a device connection broke'),
    );
    socket.on('close', () => {
      clearTimeout(stranger);
      clearInterval(silence);
      leaveStrangers();
      this.#background.run('writing down that a device went', async () => {
        await work;
        if (id === undefined || this.#on.get(id)?.socket !== socket) return;
        this.#on.delete(id);
        this.#onChanged();
        await devices.seen(id);
      });
    });
  }

  async #know(
    socket: WebSocket,
    devices: DeviceDesk,
    hello: Extract<FromDevice, { type: 'hello' }>,
    nonce: string,
  ): Promise<Device> {
    const row = await devices.find(hello.deviceId);
    if (!row || !isSignedBy(row.signKey, deviceGreeting(row.id, nonce), hello.signature))
      throw new AppError('DEVICE_NOT_FOUND');
    if (!row.endedAt) return row;
    // It was ended while the device was away: now it hears of it.
    send(socket, { type: 'forget' });
    throw new AppError('DEVICE_NOT_FOUND');
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
