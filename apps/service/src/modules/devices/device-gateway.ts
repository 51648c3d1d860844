import { randomBytes } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import type { Duplex } from 'node:stream';
import {
  AppError,
  deviceGreeting,
  errorCatalogue,
  isSignedBy,
  MAX_DEVICE_MESSAGE_BYTES,
  type ToDevice,
} from '@porch/wire';
import type { FastifyBaseLogger } from 'fastify';
import { WebSocketServer, type WebSocket } from 'ws';
import type { Background } from '../../module/background.ts';
import { letStrangerIn } from '../../sockets/let-in.ts';
import { Strangers } from '../../sockets/strangers.ts';
import { refuseUpgrade } from '../../sockets/upgrades.ts';
import type { Device, DeviceDesk, Presence } from './device-desk.ts';
import { DeviceSocket, type DeviceHello, type DeviceWord } from './device-socket.ts';

/** Sockets at once; more are turned away before they cost anything. */
const MAX_DEVICE_SOCKETS = 5_000;

interface Connected {
  readonly socket: DeviceSocket;
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
    device?.socket.send(message);
    return device !== undefined;
  }

  handleUpgrade(request: IncomingMessage, socket: Duplex, head: Buffer, address: string): void {
    const devices = this.#devices;
    if (!devices || this.#server.clients.size >= MAX_DEVICE_SOCKETS) {
      refuseUpgrade(socket, 'busy');
      return;
    }
    letStrangerIn({ request, socket, head, address }, this.#strangers, this.#server, (webSocket, leave) =>
      this.#meet(webSocket, devices, leave),
    );
  }

  close(): void {
    this.#devices = undefined;
    for (const socket of this.#server.clients) socket.close(errorCatalogue.STOPPING.closeCode, 'STOPPING');
    this.#server.close();
  }

  #meet(webSocket: WebSocket, devices: DeviceDesk, leaveStrangers: () => void): void {
    const nonce = randomBytes(32).toString('hex');
    let id: string | undefined;
    const socket: DeviceSocket = new DeviceSocket(
      webSocket,
      {
        greeted: async (hello) => {
          const device = await this.#know(socket, devices, hello, nonce);
          // Gone while the records were slow: a device that is not there must not be called on.
          if (!socket.isOpen) return;
          socket.known();
          leaveStrangers();
          id = device.id;
          // A program that starts again takes the place of what is left of it.
          this.#on.get(id)?.socket.close('REPLACED');
          this.#on.set(id, { socket, isInUse: false });
          socket.send({ type: 'welcome' });
          this.#onChanged();
          await devices.seen(id);
        },
        said: async (word) => {
          if (id !== undefined) await this.#take(id, devices, word);
        },
        gone: async () => {
          if (id === undefined || this.#on.get(id)?.socket !== socket) return;
          this.#on.delete(id);
          this.#onChanged();
          await devices.seen(id);
        },
        broke: (code) => this.#log.info({ code }, 'a device connection broke'),
        faulty: (error) => this.#log.error({ err: error }, 'a device could not be served'),
      },
      (gone) => {
        leaveStrangers();
        this.#background.run('writing down that a device went', gone);
      },
    );
    socket.send({ type: 'challenge', nonce });
  }

  async #know(socket: DeviceSocket, devices: DeviceDesk, hello: DeviceHello, nonce: string): Promise<Device> {
    const device = await devices.find(hello.deviceId);
    if (!device || !isSignedBy(device.signKey, deviceGreeting(device.id, nonce), hello.signature))
      throw new AppError('DEVICE_NOT_FOUND');
    if (!device.endedAt) return device;
    // It was ended while the device was away: now it hears of it.
    socket.send({ type: 'forget' });
    throw new AppError('DEVICE_NOT_FOUND');
  }

  async #take(id: string, devices: DeviceDesk, word: DeviceWord): Promise<void> {
    if (word.type === 'presence') {
      const device = this.#on.get(id);
      if (!device || device.isInUse === word.isInUse) return;
      device.isInUse = word.isInUse;
      this.#onChanged();
    } else if (word.type === 'visitNotTaken') await devices.noteNotTaken(id, word.sessionId, word.why);
    else {
      await devices.end(id, 'at-the-device');
      this.tell(id, { type: 'forget' });
      this.#onChanged();
    }
  }
}
