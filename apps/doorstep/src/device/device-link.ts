import {
  DEVICE_BEAT_MS,
  DEVICE_SILENCE_MS,
  deviceGreeting,
  errorCatalogue,
  signBytesWith,
  ToDevice,
  type FromDevice,
} from '@porch/wire';
import { Listeners, safeAddress } from '@porch/client';
import type { Logger } from 'pino';
import { WebSocket } from 'ws';
import { jsonOrUndefined } from '../json-or-undefined.ts';

/** How soon a lost line is tried again: doubling, with jitter, so that a thousand devices do not come at once. */
const FIRST_PAUSE_MS = 500;
const LONGEST_PAUSE_MS = 30_000;

export interface Knock {
  readonly sessionId: string;
  readonly token: string;
  readonly technicianName: string;
}
interface LinkEvents {
  visit: Knock;
  forget: undefined;
}

/** The waiting device's line to the service: shows who it is, says whether it is in use, hears knocks. */
export class DeviceLink {
  readonly listeners = new Listeners<LinkEvents>();
  readonly #url: string;
  readonly #deviceId: string;
  readonly #signSecret: string;
  readonly #log: Logger;
  readonly #beat: ReturnType<typeof setInterval>;
  #socket: WebSocket | undefined;
  #isWelcome = false;
  #isInUse = false;
  #isEnded = false;
  #pauseMs = FIRST_PAUSE_MS;
  #retry: ReturnType<typeof setTimeout> | undefined;
  #heardAtMs = 0;
  #isClosed = false;

  constructor(serviceUrl: string, deviceId: string, signSecret: string, log: Logger) {
    this.#url = `${safeAddress(serviceUrl).replace(/^http/, 'ws')}/devices`;
    this.#deviceId = deviceId;
    this.#signSecret = signSecret;
    this.#log = log;
    this.#beat = setInterval(() => {
      if (this.#socket && Date.now() - this.#heardAtMs > DEVICE_SILENCE_MS) this.#socket.terminate();
      else {
        this.#socket?.ping();
        this.#tellPresence();
      }
    }, DEVICE_BEAT_MS);
    this.#open();
  }

  setInUse(isInUse: boolean): void {
    if (this.#isInUse === isInUse) return;
    this.#isInUse = isInUse;
    this.#tellPresence();
  }

  notTaken(sessionId: string, why: 'busy' | 'ended'): void {
    this.#send({ type: 'visitNotTaken', sessionId, why });
  }

  /** Tells that the consent has ended here, now or when the line is back; the service answers with `forget`. */
  tellEnded(): void {
    this.#isEnded = true;
    this.#send({ type: 'ended' });
  }

  close(): void {
    this.#isClosed = true;
    clearInterval(this.#beat);
    clearTimeout(this.#retry);
    this.#socket?.close();
    this.listeners.clear();
  }

  #open(): void {
    if (this.#isClosed) return;
    const socket = new WebSocket(this.#url);
    this.#socket = socket;
    this.#heardAtMs = Date.now();
    socket.on('message', (data: Buffer) => this.#take(data));
    socket.on('pong', () => (this.#heardAtMs = Date.now()));
    socket.on('error', (error) => this.#log.info({ why: error.message }, 'the line of the device broke'));
    socket.on('close', (code) => {
      this.#socket = undefined;
      this.#isWelcome = false;
      if (this.#isClosed) return;
      if (code === errorCatalogue.DEVICE_NOT_FOUND.closeCode) this.#pauseMs = LONGEST_PAUSE_MS;
      this.#retry = setTimeout(() => this.#open(), this.#pauseMs * (0.5 + Math.random()));
      this.#pauseMs = Math.min(LONGEST_PAUSE_MS, this.#pauseMs * 2);
    });
  }

  #take(data: Buffer): void {
    this.#heardAtMs = Date.now();
    const parsed = ToDevice.safeParse(jsonOrUndefined(data.toString()));
    if (!parsed.success) {
      this.#log.warn('the service said something to this device that is not of the protocol');
      this.#socket?.close();
      return;
    }
    const message = parsed.data;
    if (message.type === 'challenge')
      this.#socket?.send(
        JSON.stringify({
          type: 'hello',
          deviceId: this.#deviceId,
          signature: signBytesWith(this.#signSecret, deviceGreeting(this.#deviceId, message.nonce)),
        } satisfies FromDevice),
      );
    else if (message.type === 'welcome') {
      this.#isWelcome = true;
      this.#pauseMs = FIRST_PAUSE_MS;
      if (this.#isEnded) this.#send({ type: 'ended' });
      else this.#tellPresence();
    } else if (message.type === 'visit') this.listeners.emit('visit', message);
    else this.listeners.emit('forget', undefined);
  }

  #tellPresence(): void {
    if (!this.#isEnded) this.#send({ type: 'presence', isInUse: this.#isInUse });
  }

  #send(message: FromDevice): void {
    if (this.#isWelcome && this.#socket?.readyState === WebSocket.OPEN) this.#socket.send(JSON.stringify(message));
  }
}
