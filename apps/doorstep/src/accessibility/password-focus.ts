import { existsSync } from 'node:fs';
import { inBackground } from '@porch/client';
import type { Rect } from '@porch/screen';
import { z } from 'zod';
import { isAtSocket, MessageBus, START_MS, type BusSignal } from './message-bus.ts';

/** So often a bus that is not there, or went, is looked for. */
const AGAIN_MS = 3_000;
/** AT-SPI (at-spi2-core 2.46, atspi-constants.h): a text for passwords, and the application that everything of it belongs to. */
const [ROLE_PASSWORD_TEXT, ROLE_APPLICATION] = [40, 75];
const IN_SCREEN = 0;
/** Deeper than this no program nests what it shows. */
const MOST_PARENTS = 64;
const [ACCESSIBLE, COMPONENT] = ['org.a11y.atspi.Accessible', 'org.a11y.atspi.Component'];
const LAUNCHER = { to: 'org.a11y.Bus', path: '/org/a11y/bus', on: 'org.a11y.Bus' };
const REGISTRY = {
  to: 'org.a11y.atspi.Registry',
  path: '/org/a11y/atspi/registry',
  on: 'org.a11y.atspi.Registry',
};

const Int = z.int().min(-100_000).max(100_000);
const Extents = z.tuple([Int, Int, Int, Int]).transform(([x, y, width, height]): Rect => ({ x, y, width, height }));
const Reference = z.tuple([z.string(), z.string()]);

/** Where a field and the window around it lie on the screen, as its program says. */
export interface FieldPlace {
  readonly field: Rect;
  readonly window: Rect;
}
/** A field for passwords that has the keyboard. What is in it is never read. */
export interface FocusedPassword {
  readonly id: number;
  /** Of the process that it belongs to. */
  readonly pid: number;
  /** Throws when its program says nothing of it. */
  place(): Promise<FieldPlace>;
}

interface Found extends FocusedPassword {
  readonly sender: string;
  readonly path: string;
}

/**
 * Follows which field has the keyboard, through the accessibility bus (AT-SPI 2 over D-Bus): programs tell it for readers
 * of the screen. It asks for the role and the place of what has the keyboard, and for nothing else, and changes no setting:
 * programs that tell nothing stay unnoticed.
 */
export class PasswordFocus {
  readonly #env: NodeJS.ProcessEnv;
  #bus: MessageBus | undefined;
  #found: Found | undefined;
  /** What was said last of the keyboard: answers about what came before it are of no use any longer. */
  #turn = 0;
  #pending: { readonly sender: string; readonly path: string } | undefined;
  #lastId = 0;
  #again: ReturnType<typeof setTimeout> | undefined;
  #isClosed = false;
  onChanged: (field: FocusedPassword | undefined) => void = () => undefined;

  constructor(env: NodeJS.ProcessEnv) {
    this.#env = env;
    this.#connect();
  }

  get isThere(): boolean {
    return this.#bus !== undefined;
  }
  get field(): FocusedPassword | undefined {
    return this.#found;
  }

  close(): void {
    this.#isClosed = true;
    clearTimeout(this.#again);
    this.#bus?.close();
  }

  #connect(): void {
    const session = sessionAddress(this.#env);
    // A desktop without one has no programs that tell anything.
    if (session === undefined) return;
    this.#open(session).catch(() => this.#connectLater());
  }
  #connectLater(): void {
    if (!this.#isClosed) this.#again = setTimeout(() => this.#connect(), AGAIN_MS);
  }

  async #open(session: string): Promise<void> {
    const bus = await MessageBus.open(await accessibilityAddress(session));
    try {
      bus.onSignal((signal) => this.#follow(bus, signal));
      await bus.match("type='signal',interface='org.a11y.atspi.Event.Object',member='StateChanged',arg0='focused'");
      await bus.match("type='signal',sender='org.freedesktop.DBus',member='NameOwnerChanged'");
      const event = 'object:state-changed:focused';
      await bus.call(z.unknown(), { ...REGISTRY, member: 'RegisterEvent', signature: 's', body: [event] });
    } catch (error) {
      bus.close();
      throw error;
    }
    if (this.#isClosed) return bus.close();
    this.#bus = bus;
    bus.onGone(() => {
      this.#bus = undefined;
      this.#set(undefined);
      this.#connectLater();
    });
  }

  #follow(bus: MessageBus, { sender, path, member, body }: BusSignal): void {
    if (member === 'NameOwnerChanged') {
      if (this.#found?.sender === body[0]) this.#set(undefined);
      return;
    }
    if (member !== 'StateChanged' || body[0] !== 'focused') return;
    if (body[1] === 1) this.#look(bus, sender, path);
    else if (isSame(this.#found, sender, path) || isSame(this.#pending, sender, path)) this.#set(undefined);
  }

  #look(bus: MessageBus, sender: string, path: string): void {
    const turn = ++this.#turn;
    this.#pending = { sender, path };
    // Gone meanwhile, or it does not answer: then it is nothing that anybody types into.
    const finding = this.#find(bus, sender, path).catch(() => undefined);
    inBackground(
      'looking at what has the keyboard',
      finding.then((found) => {
        if (turn === this.#turn) this.#set(found);
      }),
    );
  }

  async #find(bus: MessageBus, sender: string, path: string): Promise<Found | undefined> {
    if ((await roleOf(bus, sender, path)) !== ROLE_PASSWORD_TEXT) return undefined;
    if (isSame(this.#found, sender, path)) return this.#found;
    const pid = await bus.processOf(sender);
    let window: string | undefined;
    const place = async (): Promise<FieldPlace> => {
      window ??= await windowOf(bus, sender, path);
      return { field: await extentsOf(bus, sender, path), window: await extentsOf(bus, sender, window) };
    };
    return { id: ++this.#lastId, pid, sender, path, place };
  }

  #set(found: Found | undefined): void {
    this.#turn++;
    this.#pending = undefined;
    if (found === this.#found) return;
    this.#found = found;
    this.onChanged(found);
  }
}

const isSame = (known: { sender: string; path: string } | undefined, sender: string, path: string): boolean =>
  known?.sender === sender && known.path === path;

const roleOf = (bus: MessageBus, to: string, path: string): Promise<number> =>
  bus.call(z.int(), { to, path, on: ACCESSIBLE, member: 'GetRole' });
const extentsOf = (bus: MessageBus, to: string, path: string): Promise<Rect> =>
  bus.call(Extents, { to, path, on: COMPONENT, member: 'GetExtents', signature: 'u', body: [IN_SCREEN] });

/** The window that something lies in: what is left before the application itself. */
async function windowOf(bus: MessageBus, to: string, from: string): Promise<string> {
  let path = from;
  for (let step = 0; step < MOST_PARENTS; step++) {
    const get = { to, path, on: 'org.freedesktop.DBus.Properties', member: 'Get', signature: 'ss' };
    const [name, parent] = await bus.call(Reference, { ...get, body: [ACCESSIBLE, 'Parent'] });
    if (name !== to || (await roleOf(bus, to, parent)) === ROLE_APPLICATION) return path;
    path = parent;
  }
  throw new Error('a field lies in no window');
}

/** Asking for it starts that bus where it was not there yet. */
async function accessibilityAddress(session: string): Promise<string> {
  const bus = await MessageBus.open(session);
  try {
    return await bus.call(z.string(), { ...LAUNCHER, member: 'GetAddress' }, START_MS);
  } finally {
    bus.close();
  }
}

function sessionAddress(env: NodeJS.ProcessEnv): string | undefined {
  const { DBUS_SESSION_BUS_ADDRESS: said, XDG_RUNTIME_DIR: folder } = env;
  if (said) return isAtSocket(said) ? said : undefined;
  return folder && existsSync(`${folder}/bus`) ? `unix:path=${folder}/bus` : undefined;
}
