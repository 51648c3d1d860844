import { inBackground, RestClient, type HttpExchange, type LiveConnection } from '@porch/client';
import {
  comingBackPermissions,
  isOver,
  needsCallAnswer,
  rulesOf,
  type LedgerEntry,
  type Permission,
} from '@porch/core';
import type { ChildProcess } from 'node:child_process';
import type { Account } from './account.ts';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { liveLine } from './live-line.ts';
import { endProcess } from './processes.ts';
import { PersonAtDesk } from './person-at-desk.ts';
import { besideTheScreen, type XDesktop } from './x-desktop.ts';

export interface Character {
  readonly name: string;
  readonly address: string;
  /** Whether this person says yes when they are asked for the n-th time. */
  agrees(permissions: readonly Permission[], time: number): boolean;
  reply(text: string): string | undefined;
}

const WANTS_IN = /wants to connect|wants to help/;
/** What is asked of a person at their own desktop beside permissions. */
const ASKED_THERE =
  /gives you|wants to restart|wants to sign you out|wants to fetch|wants to see the names|May the safe point|^Password of an administrator/;
const WANTS_PASSWORD = /^Password of an administrator/;
/** How long this person reads before they answer. */
const READ_MS = 1_300;
const LOOK_MS = 500;

/** The page's cookies, as a browser would keep them: Node's fetch has none. */
export function exchangeWithCookies(base: string): HttpExchange {
  let cookie = '';
  return async (method, path, headers, body) => {
    const answer = await fetch(base + path, {
      method,
      headers: { ...headers, ...(cookie ? { cookie } : {}) },
      ...(body === undefined ? {} : { body }),
    });
    const set = answer.headers.getSetCookie()[0]?.split(';')[0];
    if (set) cookie = set;
    return { status: answer.status, body: await answer.text() };
  };
}

/**
 * A person at a real desktop, played: follows a link or types a code as their page would, starts Doorstep, reads each
 * question on the screen and presses the button with their own mouse. Nothing of it goes around what a person can do.
 */
export class ScriptedCustomer {
  readonly character: Character;
  readonly desktop: XDesktop;
  readonly #doorstepCommand: readonly string[];
  readonly #account: Account | undefined;
  readonly #password: string | undefined;
  readonly #serviceUrl: string;
  readonly #tell: (line: string) => void;
  readonly #asked = new Map<string, number>();
  #connection: LiveConnection | undefined;
  #doorstep: ChildProcess | undefined;
  #person: PersonAtDesk | undefined;
  #passphrase: string | undefined;
  #visits: ReturnType<typeof setInterval> | undefined;
  #isAnswering = false;
  rest: RestClient;

  constructor(options: {
    character: Character;
    desktop: XDesktop;
    /** How Doorstep is started on their desktop, and as whom. */
    doorstepCommand: readonly string[];
    account: Account | undefined;
    /** What they type where their computer asks for an administrator's password. */
    password?: string;
    serviceUrl: string;
    tell: (line: string) => void;
  }) {
    this.character = options.character;
    this.desktop = options.desktop;
    this.#doorstepCommand = options.doorstepCommand;
    this.#account = options.account;
    this.#password = options.password;
    this.#serviceUrl = options.serviceUrl;
    this.#tell = options.tell;
    this.rest = new RestClient(exchangeWithCookies(options.serviceUrl));
  }

  /** The passphrase that lets a visit in, as this person wrote it down; they give it on the telephone. */
  get passphrase(): string | undefined {
    return this.#passphrase;
  }

  /** As when they sign in: what waits for visits begins, where a standing consent was made before. */
  async signIn(): Promise<void> {
    this.#person ??= await PersonAtDesk.at(this.desktop.display);
    if (existsSync(join(this.#stateFolder, 'standing.json'))) this.#startDoorstep(['wait']);
    this.#visits = setInterval(() => inBackground('an answer', this.#answerWhatComes()), LOOK_MS);
  }

  get isBusy(): boolean {
    return this.#connection !== undefined;
  }

  /** Whether they would follow another invitation. */
  get isFree(): boolean {
    return !this.isBusy || this.#isLeftAlone;
  }

  /** In a session that its technician has left unfinished. */
  get #isLeftAlone(): boolean {
    const { state, presence } = this.#connection ?? {};
    return (
      state !== undefined &&
      !presence?.some((row) => row.isConnected && state.participants[row.participantId]?.side === 'desk')
    );
  }

  /** Opens the front door with what they were told, and does what it asks. */
  async join(invitation: { code: string } | { link: string }): Promise<void> {
    if (this.#isLeftAlone) {
      this.#say('leaves the session in which nobody is any longer');
      await this.#end();
    }
    if (this.isBusy) throw new Error(`${this.character.name} is being helped already`);
    this.rest = new RestClient(exchangeWithCookies(this.#serviceUrl));
    const { door } = await this.rest.join({ ...invitation, as: 'page' });
    this.#say(`reads: ${door.technicianName} of ${door.deskName}, “${door.purpose}”`);
    const connection = liveLine(() => this.rest.doorLive());
    this.#connection = connection;
    connection.on('failed', () => inBackground('an end', this.#end()));
    await connection.ready();
    connection.tellStep('reading-who-asks');
    await connection.command({ type: 'introduceCustomer', name: this.character.name, address: this.character.address });
    if (needsCallAnswer(connection.state)) await connection.command({ type: 'answerCall', answer: 'i-called' });
    await connection.command({ type: 'acceptSession', noticeVersion: door.noticeVersion });
    this.#say('accepts, and starts Doorstep');
    connection.tellStep('getting-doorstep');
    this.#person ??= await PersonAtDesk.at(this.desktop.display);
    this.#startDoorstep(['join', '--link', door.doorstepLink]);
    connection.on(
      'entry',
      (entry) => void this.#follow(entry).catch((error: unknown) => this.#say(`is stuck: ${String(error)}`)),
    );
  }

  /** Presses Stop in the bar at the edge of the screen. */
  async stop(): Promise<void> {
    await this.#person?.pressStop();
  }

  async close(): Promise<void> {
    clearInterval(this.#visits);
    await this.#end();
    this.#person?.close();
  }

  get #stateFolder(): string {
    return join(this.desktop.home, '.local', 'state', 'zesty-porch');
  }

  /** What comes up by itself: who wants to connect while nobody helps them, and what is asked of their files meanwhile. */
  async #answerWhatComes(): Promise<void> {
    if (this.#isAnswering) return;
    this.#isAnswering = true;
    try {
      if (!(await this.#isThere())) return;
      const question = await this.#person?.question();
      const expected = this.isBusy ? ASKED_THERE : WANTS_IN;
      if (question && expected.test(question.text)) {
        this.#say(`reads: ${question.text.split('\n')[0] ?? ''}`);
        const isSecret = WANTS_PASSWORD.test(question.text);
        if (isSecret && this.#password) await this.#type(WANTS_PASSWORD, this.#password);
        const agrees = !isSecret || this.#password !== undefined;
        if (await this.#person?.answer(agrees, READ_MS)) this.#say(`presses ${agrees ? 'Yes' : 'No'}`);
      }
    } catch (error) {
      // The screen went while they looked at it: the computer restarts.
      if (!this.#person?.isGone) throw error;
    } finally {
      this.#isAnswering = false;
    }
  }

  /** Sits before the screen, and before the next one once the computer has started again. */
  async #isThere(): Promise<boolean> {
    if (!this.#person?.isGone) return true;
    const { computer, display } = this.desktop;
    if (!computer?.isOn) return false;
    await computer.isUp();
    this.#person = await PersonAtDesk.at(display);
    return true;
  }

  async #type(asked: RegExp, text: string): Promise<void> {
    await this.#person?.questionSaying(asked);
    await this.#person?.type(text);
    this.#say('types it');
  }

  /** A standing consent: looking and working, for the shortest time, with the passphrase on a slip of paper. */
  async #keepDevice(): Promise<void> {
    const person = this.#person;
    if (!person) return;
    await person.press(/connect to this computer later/, 'yes', { i: 1, of: 4 });
    await person.press(/For how long/, 'yes');
    this.#passphrase = (await person.press(/This passphrase/, 'yes')).split('\n')[1];
    this.#say(`writes down the passphrase for visits: ${this.#passphrase ?? ''}`);
  }

  #startDoorstep(what: readonly string[]): void {
    const { displayThere, home, starter } = this.desktop;
    const beside = besideTheScreen(this.desktop);
    const [command = '', ...before] = this.#doorstepCommand;
    const child = starter.start(
      `Doorstep of ${this.character.name}`,
      command,
      [
        ...before,
        ...what,
        '--display',
        displayThere,
        '--home',
        home,
        '--downloads',
        join(home, 'Downloads'),
        '--state',
        this.#stateFolder,
        ...beside.args,
      ],
      {
        stdio: ['ignore', 'ignore', 'pipe'],
        cwd: home,
        env: { ...process.env, HOME: home, ...beside.env },
        ...this.#account,
      },
    );
    child.stderr?.on('data', (part: Buffer) => this.#say(`Doorstep says: ${part.toString().trim().slice(0, 300)}`));
    child.on('exit', () => {
      if (this.#doorstep === child) this.#doorstep = undefined;
    });
    this.#doorstep = child;
  }

  async #follow({ event }: LedgerEntry): Promise<void> {
    const connection = this.#connection;
    if (!connection) return;
    if (event.type === 'permissionsAsked') {
      // What they said before a restart is answered by that.
      const { toAsk } = connection.state.slices['restart-and-return'];
      if (event.permissions.every((one) => toAsk.includes(one)) || !(await this.#isThere())) return;
      const key = event.permissions.join();
      const time = (this.#asked.get(key) ?? 0) + 1;
      this.#asked.set(key, time);
      if (event.permissions.some((one) => comingBackPermissions.includes(one))) {
        await this.#keepDevice();
        return;
      }
      const agrees = this.character.agrees(event.permissions, time);
      this.#say(`reads a question about ${event.permissions.join(', ')} …`);
      if (await this.#person?.answer(agrees, READ_MS)) this.#say(`presses ${agrees ? 'Yes' : 'No'}`);
    } else if (event.type === 'chatSent' && connection.state.participants[event.by]?.side === 'desk') {
      const reply = this.character.reply(event.personal?.text ?? '');
      if (!reply) return;
      await connection.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: reply });
      this.#say(`writes: ${reply}`);
    } else if (event.type === 'tryItAsked') {
      await connection.command({ type: 'answerTry', answer: 'works' });
      this.#say('tries it: it works');
    } else if (isOver(connection.state)) await this.#end();
  }

  async #end(): Promise<void> {
    const connection = this.#connection;
    if (!connection) return;
    this.#connection = undefined;
    this.#asked.clear();
    const doorstep = this.#doorstep;
    // Doorstep goes by itself at the end of a session, once everything is delivered.
    if (doorstep && !isOver(connection.state)) await endProcess(doorstep);
    connection.close();
    this.#say('is done');
  }

  #say(line: string): void {
    this.#tell(`${this.character.name} ${line}`);
  }
}

export const bettina: Character = {
  name: 'Bettina Crole',
  address: 'bettina.crole@marrowick.example',
  // She looks twice at anything that takes files away.
  agrees: (permissions, time) => time > 1 || !permissions.some((one) => rulesOf(one).takesAway),
  reply: (text) =>
    /\?/.test(text)
      ? 'Yes, every pass since Monday. The lower half is missing.'
      : /hello|good/i.test(text)
        ? 'Hello Pim, glad you are there.'
        : undefined,
};

export const samir: Character = {
  name: 'Samir Oduya',
  address: 'samir.oduya@marrowick.example',
  // On a bridge nobody hands over the wheel at the first word.
  agrees: (permissions, time) => time > 1 || !permissions.some((one) => rulesOf(one).isHandsOn),
  reply: (text) => (/\?/.test(text) ? 'Aye, the export with commas is the one on the left.' : undefined),
};
