import { z } from 'zod';
import { MessageBus, SYSTEM_BUS } from '../accessibility/message-bus.ts';

const ON = 'org.freedesktop.login1.Manager';
const MANAGER = { to: 'org.freedesktop.login1', path: '/org/freedesktop/login1', on: ON };
const PROPERTIES = 'org.freedesktop.DBus.Properties';
const SESSIONS = '/org/freedesktop/login1/session';
const ORDER_MS = 10_000;

const Sessions = z.array(z.tuple([z.string(), z.number(), z.string(), z.string(), z.string()]));
const Holds = z.array(z.tuple([z.string(), z.string(), z.string(), z.string(), z.number(), z.number()]));

export interface SignedIn {
  readonly id: string;
  readonly uid: number;
  readonly account: string;
  readonly path: string;
}

/** Who is signed in at this computer, and how it goes down: systemd's logind (org.freedesktop.login1(5)). */
export class Logind {
  readonly #bus: MessageBus;
  /** It said so, to whoever hears that it goes down. */
  #isGoingDown = false;

  private constructor(bus: MessageBus) {
    this.#bus = bus;
  }
  /** Throws where there is none. */
  static async open(address = SYSTEM_BUS): Promise<Logind> {
    return new Logind(await MessageBus.open(address));
  }

  /** Whether this account may restart the computer without anybody's password. */
  async canRestart(): Promise<boolean> {
    return (await this.#bus.call(z.string(), { ...MANAGER, member: 'CanReboot' })) === 'yes';
  }
  /** Throws where it does not restart. logind goes down with the rest, at times before it has answered: then what it said counts. */
  async restart(): Promise<void> {
    try {
      await this.#bus.call(z.unknown(), { ...MANAGER, member: 'Reboot', signature: 'b', body: [false] }, ORDER_MS);
    } catch (error) {
      if (!this.#isGoingDown) throw error;
    }
  }
  async signOut(sessionId: string): Promise<void> {
    const order = { ...MANAGER, member: 'TerminateSession', signature: 's', body: [sessionId] };
    await this.#bus.call(z.unknown(), order, ORDER_MS);
  }
  async sessions(): Promise<SignedIn[]> {
    const rows = await this.#bus.call(Sessions, { ...MANAGER, member: 'ListSessions' });
    return rows.map(([id, uid, account, _seat, path]) => ({ id, uid, account, path }));
  }
  /** One property of a session: its class, its state, its kind, the display of its X server. */
  about(session: SignedIn, name: 'Class' | 'State' | 'Type' | 'Display'): Promise<string> {
    return this.#property(z.string(), session, name);
  }
  /** The session of this program, or the one that its desktop was given, where it was started outside of any. */
  async ownSession(): Promise<SignedIn | undefined> {
    const asked = { ...MANAGER, member: 'GetSessionByPID', signature: 'u', body: [process.pid] };
    const path = await this.#bus.call(z.string(), asked).catch(() => undefined); // It is in none.
    const id = process.env['XDG_SESSION_ID'];
    return (await this.sessions()).find((one) => (path === undefined ? one.id === id : one.path === path));
  }
  /** Whether it is in front of its seat; one without a seat always is. */
  isActive(session: SignedIn): Promise<boolean> {
    return this.#property(z.boolean(), session, 'Active');
  }
  /** When they signed in, by this computer's clock. */
  async sinceMs(session: SignedIn): Promise<number> {
    const micros = await this.#property(z.union([z.bigint(), z.number()]), session, 'Timestamp');
    return Math.max(0, Math.floor(Number(micros) / 1_000));
  }
  /** Hears that somebody signed in or out, or that something of a session is other than before. */
  async onSessionsChanged(listener: () => void): Promise<void> {
    this.#bus.onSignal(({ member, path }) => {
      const isOne = member === 'PropertiesChanged' && path.startsWith(SESSIONS);
      if (isOne || member === 'SessionNew' || member === 'SessionRemoved') listener();
    });
    for (const member of ['SessionNew', 'SessionRemoved'])
      await this.#bus.match(`type='signal',interface='${ON}',member='${member}'`);
    const changed = `type='signal',interface='${PROPERTIES}',member='PropertiesChanged'`;
    await this.#bus.match(`${changed},path_namespace='${SESSIONS}'`);
  }
  /** Hears that something of one session is other than before. */
  async onSessionChanged({ path }: SignedIn, listener: () => void): Promise<void> {
    this.#bus.onSignal((signal) => {
      if (signal.member === 'PropertiesChanged' && signal.path === path) listener();
    });
    await this.#bus.match(`type='signal',interface='${PROPERTIES}',member='PropertiesChanged',path='${path}'`);
  }
  /** Who asks that it does not go down now. */
  async holds(): Promise<string[]> {
    const rows = await this.#bus.call(Holds, { ...MANAGER, member: 'ListInhibitors' });
    return rows
      .filter(([what, , , mode]) => mode === 'block' && what.split(':').includes('shutdown'))
      .map(([, who]) => who);
  }
  /** Whether programs of this account run while nobody is signed in. */
  async linger(uid: number, isOn: boolean): Promise<void> {
    const order = { ...MANAGER, member: 'SetUserLinger', signature: 'ubb', body: [uid, isOn, false] };
    await this.#bus.call(z.unknown(), order, ORDER_MS);
  }
  /** Hears that it goes down, whoever ordered it. */
  async onGoingDown(listener: () => void): Promise<void> {
    this.#bus.onSignal(({ member, body }) => {
      if (member !== 'PrepareForShutdown') return;
      this.#isGoingDown = body[0] === true;
      if (this.#isGoingDown) listener();
    });
    await this.#bus.match(`type='signal',interface='${ON}',member='PrepareForShutdown'`);
  }
  close(): void {
    this.#bus.close();
  }

  #property<T>(answer: z.ZodType<T>, { path }: SignedIn, name: string): Promise<T> {
    const body = ['org.freedesktop.login1.Session', name];
    return this.#bus.call(answer, { to: MANAGER.to, path, on: PROPERTIES, member: 'Get', signature: 'ss', body });
  }
}

/** Works with a connection of its own. */
export async function withLogind<T>(work: (logind: Logind) => Promise<T>): Promise<T> {
  const logind = await Logind.open();
  try {
    return await work(logind);
  } finally {
    logind.close();
  }
}
