import type { EventEmitter } from 'node:events';
import dbus, {
  interface as offered,
  Message,
  MessageType,
  Variant,
  type MessageBus as Connection,
} from '@particle/dbus-next';
import { z } from 'zod';

/** A program that does not answer by then is not waited for any longer. */
const ANSWER_MS = 2_000;
/** What has to be started first takes longer. */
export const START_MS = 10_000;
/** Where the computer's own services are (D-Bus specification). */
export const SYSTEM_BUS = 'unix:path=/run/dbus/system_bus_socket';
const DAEMON = { to: 'org.freedesktop.DBus', path: '/org/freedesktop/DBus', on: 'org.freedesktop.DBus' };

export interface BusCall {
  readonly to: string;
  readonly path: string;
  readonly on: string;
  readonly member: string;
  readonly signature?: string;
  readonly body?: readonly unknown[];
}
export interface BusSignal {
  readonly sender: string;
  readonly path: string;
  readonly member: string;
  readonly body: readonly unknown[];
}

/** Whether this address of a bus names sockets of this computer, and nothing else that one may stand for. */
export const isAtSocket = (address: string): boolean => address.split(';').every((one) => one.startsWith('unix:'));

/** A connection to one D-Bus message bus (D-Bus specification 0.41): calls with an answer that is looked at, and signals. */
export class MessageBus {
  readonly #bus: Connection;
  readonly #beneath: EventEmitter;
  readonly #gone = new Set<(why: Error) => void>();
  #goneWhy: Error | undefined;

  private constructor(bus: Connection) {
    this.#bus = bus;
    bus.on('error', (error: unknown) => this.#end(error instanceof Error ? error : new Error(String(error))));
    // The library says nothing of a daemon that closes in good order; the connection beneath it does.
    this.#beneath = (bus as unknown as { readonly _connection: EventEmitter })._connection;
    this.#beneath.on('end', () => this.#end(new Error('the message bus has closed the connection')));
  }

  /** Throws when there is nobody, or nobody who lets us in. */
  static async open(address: string): Promise<MessageBus> {
    if (!isAtSocket(address)) throw new Error('the bus is at no socket');
    const connection = dbus.sessionBus({ busAddress: address });
    const bus = new MessageBus(connection);
    await bus.#within(START_MS, new Promise<void>((resolve) => connection.on('connect', resolve)));
    return bus;
  }

  onGone(listener: (why: Error) => void): void {
    if (this.#goneWhy) listener(this.#goneWhy);
    else this.#gone.add(listener);
  }

  onSignal(listener: (signal: BusSignal) => void): void {
    this.#bus.on('message', ({ type, sender = '', path = '', member = '', body = [] }) => {
      if (type === MessageType.SIGNAL) listener({ sender, path, member, body });
    });
  }

  /** The first value of the answer. Throws when it is another one, none comes, or the bus is gone. */
  async call<T>(
    answer: z.ZodType<T>,
    { to, path, on, member, signature = '', body = [] }: BusCall,
    withinMs = ANSWER_MS,
  ): Promise<T> {
    const message = new Message({ destination: to, path, interface: on, member, signature, body: [...body] });
    const reply = await this.#within(withinMs, this.#bus.call(message));
    const said: unknown = reply?.body[0];
    return answer.parse(said instanceof Variant ? said.value : said);
  }

  /** Signals that match this rule come here from now on. */
  async match(rule: string): Promise<void> {
    await this.call(z.unknown(), { ...DAEMON, member: 'AddMatch', signature: 's', body: [rule] });
  }

  /** Others on the bus may call this from now on. */
  offer(path: string, what: InstanceType<typeof offered.Interface>): void {
    this.#bus.export(path, what);
  }

  /** Of the program behind a name. */
  processOf(name: string): Promise<number> {
    const member = 'GetConnectionUnixProcessID';
    return this.call(z.int().positive(), { ...DAEMON, member, signature: 's', body: [name] });
  }

  close(): void {
    this.#end(new Error('closed'));
    this.#bus.disconnect();
  }

  async #within<T>(ms: number, answer: Promise<T>): Promise<T> {
    if (this.#goneWhy) throw this.#goneWhy;
    let settle: () => void = () => undefined;
    const late = new Promise<never>((_resolve, reject) => {
      const timer = setTimeout(() => reject(new Error(`nothing was answered within ${ms} ms`)), ms);
      this.#gone.add(reject);
      settle = () => {
        clearTimeout(timer);
        this.#gone.delete(reject);
      };
    });
    try {
      return await Promise.race([answer, late]);
    } finally {
      settle();
    }
  }

  #end(why: Error): void {
    if (this.#goneWhy) return;
    this.#goneWhy = why;
    // The library answers calls of others, and throws where nobody hears it once nothing can be written any longer.
    this.#beneath.removeAllListeners('message');
    for (const listener of [...this.#gone]) listener(why);
    this.#gone.clear();
  }
}
