import type { EventEmitter } from 'node:events';
import dbus, { Message, MessageType, Variant, type MessageBus } from '@particle/dbus-next';

interface Rect {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}
/** What it says; it need not be true, and need not be anything that anybody understands. */
export interface Says {
  role: unknown;
  field: Rect | 'nonsense' | 'nothing';
  window: Rect;
  /** The parent of the field: its window, or itself, round and round. */
  isKnot?: boolean;
}
const [FIELD, WINDOW, ROOT] = ['/field', '/window', '/org/a11y/atspi/accessible/root'];
const NULL_PATH = '/org/a11y/atspi/null';
const APPLICATION = 75;
const FRAME = 23;

/** A program of another's that tells readers of the screen about a field that has the keyboard (AT-SPI 2). */
export class TellingProgram {
  says: Says;
  readonly #bus: MessageBus;
  /** As the bus calls it. */
  readonly #name: string;

  private constructor(bus: NamedBus, says: Says) {
    this.#bus = bus;
    this.#name = bus.name;
    this.says = says;
    bus.on('error', () => undefined);
    bus.addMethodHandler((call: Message) => this.#answer(call));
  }

  static async on(env: NodeJS.ProcessEnv, says: Says): Promise<TellingProgram> {
    const session = await open(env['DBUS_SESSION_BUS_ADDRESS'] ?? '');
    const reply = await session.call(
      new Message({
        destination: 'org.a11y.Bus',
        path: '/org/a11y/bus',
        interface: 'org.a11y.Bus',
        member: 'GetAddress',
      }),
    );
    session.disconnect();
    return new TellingProgram(await open(String(reply?.body[0])), says);
  }

  /** The field has the keyboard now, or does not any longer. */
  focus(isOn: boolean): void {
    this.#bus.send(
      Message.newSignal(FIELD, 'org.a11y.atspi.Event.Object', 'StateChanged', 'siiv', [
        'focused',
        Number(isOn),
        0,
        new Variant('i', 0),
      ]),
    );
  }
  close(): void {
    // What is asked still is answered by nobody.
    (this.#bus as unknown as { _connection: EventEmitter })._connection.removeAllListeners('message');
    this.#bus.disconnect();
  }

  #answer(call: Message): boolean {
    if (call.type !== MessageType.METHOD_CALL) return false;
    const give = (signature: string, body: unknown[]) => {
      this.#bus.send(Message.newMethodReturn(call, signature, body));
      return true;
    };
    const { role, field, window, isKnot } = this.says;
    switch (call.member) {
      case 'GetRole':
        if (call.path === ROOT) return give('u', [APPLICATION]);
        if (call.path === WINDOW) return give('u', [FRAME]);
        return typeof role === 'number' ? give('u', [role]) : give('s', [String(role)]);
      case 'Get': {
        const parent = isKnot ? FIELD : call.path === FIELD ? WINDOW : call.path === WINDOW ? ROOT : NULL_PATH;
        return give('v', [new Variant('(so)', [this.#name, parent])]);
      }
      case 'GetExtents': {
        const rect = call.path === FIELD ? field : window;
        // Whoever asks waits for nothing.
        if (rect === 'nothing') return true;
        if (rect === 'nonsense') return give('s', ['somewhere']);
        return give('(iiii)', [[rect.x, rect.y, rect.width, rect.height]]);
      }
    }
    return false;
  }
}

/** What the types of the library leave out. */
type NamedBus = MessageBus & { readonly name: string };

async function open(address: string): Promise<NamedBus> {
  const bus = dbus.sessionBus({ busAddress: address }) as NamedBus;
  await new Promise<void>((resolve, reject) => {
    bus.on('connect', resolve);
    bus.on('error', reject);
  });
  return bus;
}
