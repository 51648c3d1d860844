import { fetchExchange, LiveConnection, RestClient, type HttpExchange, type SocketLike } from '@porch/client';
import { nodeCiphers } from '@porch/client/node';
import {
  besideTheScreen,
  doorstepThere,
  deskSettings,
  directoryAppSettings,
  directorySettings,
  emailOf,
  PASSWORD,
  Processes,
  startDesktop,
  PersonAtDesk,
  postOfficeSettings,
  postSettings,
  freePort,
  type XDesktop,
} from '@porch/demo';
import type { Permission } from '@porch/core';
import type { KeptMail, KeptText, MailMode, TextMode } from '@porch/stand-ins';
import { makeKeys, type InputAct } from '@porch/wire';
import type { ChildProcess } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { appendFileSync, mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { inject } from 'vitest';
import { WebSocket } from 'ws';
import { lookAt } from './look.ts';
import { RecordsLine } from './records-line.ts';
import { runProgram, type ProgramResult } from './run-program.ts';
import { sayWhenFailed } from './say-when-failed.ts';
import { secretFor } from './secrets.ts';
import { until } from './until.ts';

export interface HouseOptions {
  readonly env?: Readonly<Record<string, string>>;
  readonly hasTickets?: boolean;
  /** A mail server and a text gateway with everybody's mailboxes. */
  readonly hasPost?: boolean;
  /** A directory that knows every customer. */
  readonly hasDirectory?: boolean;
  /** The service reaches its records over a line that the test can freeze, cut, and lose answers on. */
  readonly hasRecordsLine?: boolean;
  /** What the service logs is kept in the folder, as `service.log`. */
  readonly keepsLog?: boolean;
}

/** Somebody whose address the directory never checked. */
export const UNCHECKED_ADDRESS = 'greta.moss@elsewhere.example';
/** Of a ledger that is read again when a test failed on it. */
const LAST_ENTRIES = 15;

const withSomebodyUnchecked = (settings: ReturnType<typeof directoryAppSettings>) => ({
  ...settings,
  DIRECTORY_PEOPLE: `${settings.DIRECTORY_PEOPLE},Greta Moss <${UNCHECKED_ADDRESS}>?`,
});

/** A whole service with a database of its own, as a process, and whatever of the world around it a test wants. */
export class House {
  readonly processes: Processes;
  readonly folder: string;
  readonly databaseUrl: string;
  readonly #env: NodeJS.ProcessEnv;
  readonly #ticketsPort: number;
  readonly #connections: LiveConnection[] = [];
  readonly #sockets = new Map<LiveConnection, WebSocket>();
  readonly #closers: (() => Promise<void> | void)[] = [];
  #service: ChildProcess | undefined;
  #tickets: ChildProcess | undefined;
  #directory: ChildProcess | undefined;
  url = '';
  postUrl = '';
  recordsLine: RecordsLine | undefined;
  #keepsLog = false;

  private constructor(
    processes: Processes,
    folder: string,
    databaseUrl: string,
    env: NodeJS.ProcessEnv,
    ticketsPort: number,
  ) {
    this.processes = processes;
    this.folder = folder;
    this.databaseUrl = databaseUrl;
    this.#env = env;
    this.#ticketsPort = ticketsPort;
  }

  static async open({
    env = {},
    hasTickets = false,
    hasPost = false,
    hasDirectory = false,
    hasRecordsLine = false,
    keepsLog = false,
  }: HouseOptions = {}): Promise<House> {
    const mark = randomBytes(6).toString('hex');
    const folder = join(inject('folder'), mark);
    mkdirSync(folder, { mode: 0o711 });
    await atPostgres(`CREATE DATABASE "${mark}" TEMPLATE "template_porch" STRATEGY FILE_COPY`);
    const databaseUrl = inject('postgresUrl').replace(/\/postgres$/, `/${mark}`);
    const line = hasRecordsLine ? await RecordsLine.open(Number(new URL(databaseUrl).port)) : undefined;
    const overLine = new URL(databaseUrl);
    if (line) overLine.port = String(line.port);
    const [servicePort, ticketsPort] = [await freePort(), await freePort()];
    const postPorts = { http: await freePort(), smtp: await freePort(), reports: await freePort() };
    const directoryPort = await freePort();
    secretFor(folder, 'texts-key');
    secretFor(folder, 'directory-secret');
    const directorySecretFile = join(folder, 'directory-secret');
    const textsKeyFile = join(folder, 'texts-key');
    const key = secretFor(folder, 'tickets-key');
    const house = new House(
      new Processes(mark),
      folder,
      databaseUrl,
      {
        ...deskSettings,
        PORCH_PORT: String(servicePort),
        PORCH_DATABASE_URL: overLine.href,
        PORCH_SECRET_FILE: secretFor(folder, 'secret'),
        PORCH_WEB_DIR: join(inject('root'), 'dist', 'web'),
        PORCH_LOG_LEVEL: 'error',
        PORCH_ASK_AGAIN_SECONDS: '0',
        PORCH_SENSITIVE_ASK_AGAIN_SECONDS: '0',
        ...(hasPost ? postSettings(postPorts, textsKeyFile) : {}),
        ...(hasDirectory ? directorySettings(directoryPort, directorySecretFile) : {}),
        ...(hasTickets ? { PORCH_TICKETS_URL: `http://127.0.0.1:${ticketsPort}`, PORCH_TICKETS_KEY_FILE: key } : {}),
        ...env,
      },
      ticketsPort,
    );
    house.recordsLine = line;
    house.#keepsLog = keepsLog;
    if (hasTickets) await house.startTickets();
    if (hasDirectory) await house.startDirectory(directoryPort);
    if (hasPost) {
      const post = await house.processes.startReady(
        'post office',
        join(inject('root'), 'dist', 'post.mjs'),
        postOfficeSettings(postPorts, textsKeyFile, servicePort),
      );
      house.postUrl = post.url;
    }
    await house.startService();
    return house;
  }

  get ticketsUrl(): string {
    return `http://127.0.0.1:${this.#ticketsPort}`;
  }
  get ticketsKey(): string {
    return readFileSync(join(this.folder, 'tickets-key'), 'utf8').trim();
  }
  /** What the service was started with. */
  settings = (): NodeJS.ProcessEnv => this.#env;
  get liveUrl(): string {
    return `${this.url.replace('http', 'ws')}/live`;
  }

  async startService(env: Readonly<Record<string, string>> = {}): Promise<void> {
    const { child, url } = await this.processes.startReady(
      'service',
      join(inject('root'), 'dist', 'service.mjs'),
      { ...this.#env, ...env },
      [],
      this.#keepsLog ? (part) => appendFileSync(join(this.folder, 'service.log'), part) : undefined,
    );
    this.#service = child;
    this.url = url;
  }
  async startTickets(): Promise<void> {
    const { child } = await this.processes.startReady('tickets', join(inject('root'), 'dist', 'tickets.mjs'), {
      TICKETS_PORT: String(this.#ticketsPort),
      TICKETS_DATA_FILE: join(this.folder, 'tickets.json'),
      TICKETS_KEY_FILE: join(this.folder, 'tickets-key'),
      TICKETS_WEBHOOK_URL: `http://127.0.0.1:${this.#env['PORCH_PORT']}/api/webhooks/tickets`,
      TICKETS_HELP_URL: `http://127.0.0.1:${this.#env['PORCH_PORT']}/api/webhooks/help-wanted`,
    });
    this.#tickets = child;
  }
  /** Everything that lies in somebody's mailbox, newest first. */
  async mailsTo(address: string): Promise<KeptMail[]> {
    return (await (await fetch(`${this.postUrl}/mails?to=${encodeURIComponent(address)}`)).json()) as KeptMail[];
  }
  async textsTo(number: string): Promise<KeptText[]> {
    return (await (await fetch(`${this.postUrl}/texts?to=${encodeURIComponent(number)}`)).json()) as KeptText[];
  }
  async setPost(modes: { mail?: MailMode; texts?: TextMode }): Promise<void> {
    const answer = await fetch(`${this.postUrl}/modes`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(modes),
    });
    if (!answer.ok) throw new Error(await answer.text());
  }
  async startDirectory(port = Number(new URL(this.#env['PORCH_DIRECTORY_URL'] ?? '').port)): Promise<void> {
    const { child } = await this.processes.startReady(
      'directory',
      join(inject('root'), 'dist', 'directory.mjs'),
      withSomebodyUnchecked(directoryAppSettings(port, join(this.folder, 'directory-secret'))),
    );
    this.#directory = child;
  }
  stopDirectory = (): Promise<void> => kill(this.#directory, 'SIGTERM');
  killService = (signal: NodeJS.Signals = 'SIGKILL'): Promise<void> => kill(this.#service, signal);
  signalService = (signal: 'SIGSTOP' | 'SIGCONT'): void => void this.#service?.kill(signal);
  stopTickets = (): Promise<void> => kill(this.#tickets, 'SIGTERM');

  async query<T extends pg.QueryResultRow>(sql: string, values: unknown[] = []): Promise<T[]> {
    const client = new pg.Client({ connectionString: this.databaseUrl });
    await client.connect();
    try {
      return (await client.query<T>(sql, values)).rows;
    } finally {
      await client.end();
    }
  }

  async signedIn(name = 'Pim Aldersey'): Promise<RestClient> {
    const rest = new RestClient(fetchExchange(this.url));
    rest.token = (await rest.signIn(emailOf(name), PASSWORD, 'token')).token;
    return rest;
  }

  /** A technician's live connection, ready. */
  technician(rest: RestClient, sessionId: string, line?: (url: string) => string): Promise<LiveConnection> {
    return this.#live(() => rest.livePass(sessionId), line);
  }

  /** A customer's page that has come in, with its cookie, ready. */
  async customer(invitation: { code: string } | { link: string }): Promise<{ rest: RestClient; live: LiveConnection }> {
    const rest = new RestClient(exchangeWithCookie(() => this.url));
    await rest.join({ ...invitation, as: 'page' });
    return { rest, live: await this.#live(() => rest.doorLive()) };
  }

  /** A Doorstep's connection without a desktop: what it says is up to the test. */
  async bareDoorstep(
    invitation: { code: string } | { link: string },
    line?: (url: string) => string,
    can?: readonly Permission[],
  ): Promise<LiveConnection> {
    const rest = new RestClient(fetchExchange(this.url));
    rest.token = (await rest.join({ ...invitation, as: 'doorstep' })).token;
    return this.#live(() => rest.doorLive(), line, can);
  }

  /**
   * A session under way: technician and customer's page are in, the customer has accepted. Whoever comes by the link in
   * their ticket is known by it.
   */
  async sessionUnderWay(
    name = 'Pim Aldersey',
    ticketRef?: string,
    line?: (url: string) => string,
    way: 'link' | 'ticket-comment' = 'link',
  ) {
    const rest = await this.signedIn(name);
    const started = await rest.start(ticketRef ? { ticketRef } : {});
    const { link: invited } = way === 'link' ? started : await rest.invite(started.session.id, { way });
    const invitation = invited.split('/').at(-1) ?? '';
    const technician = await this.technician(rest, started.session.id, line);
    const customer = await this.customer({ link: invitation });
    sayWhenFailed(() => [
      'The ledger said at last:',
      ...customer.live.entries.slice(-LAST_ENTRIES).map(({ atMs, event }) => `${atMs} ${JSON.stringify(event)}`),
    ]);
    await customer.live.command({
      type: 'introduceCustomer',
      name: 'Bettina Crole',
      address: 'bettina.crole@marrowick.example',
    });
    await customer.live.command({ type: 'answerCall', answer: 'i-called' });
    await customer.live.command({ type: 'acceptSession', noticeVersion: '2026-11' });
    // From here on their own page alone leads in: what asked them in has had its use.
    const link = (await customer.rest.door()).doorstepLink.split('/').at(-1) ?? '';
    return {
      invitation,
      rest,
      started,
      link,
      technician,
      customer: customer.live,
      customerRest: customer.rest,
      id: started.session.id,
    };
  }

  /** A real desktop with a real Doorstep in the session, and its person. */
  async withDoorstep(
    link: string,
    options: {
      width?: number;
      height?: number;
      programs?: 'all' | 'none' | 'editor';
      hasBus?: boolean;
      desktop?: XDesktop;
      over?: string;
    } = {},
  ) {
    const desktop =
      options.desktop ??
      (await startDesktop(this.processes, {
        name: 'a test',
        home: join(this.folder, `home-${randomBytes(3).toString('hex')}`),
        programs: options.programs ?? 'none',
        ...(options.width ? { width: options.width } : {}),
        ...(options.height ? { height: options.height } : {}),
        ...(options.hasBus ? { hasBus: true } : {}),
      }));
    const person = await PersonAtDesk.at(desktop.display);
    this.#closers.push(() => person.close());
    const doorstep = this.startDoorstep(desktop, `${options.over ?? this.url}/join/${link}`);
    return { desktop, person, doorstep };
  }

  startDoorstep(desktop: XDesktop, link: string, errors: 'inherit' | 'pipe' = 'inherit'): ChildProcess {
    const beside = besideTheScreen(desktop);
    const [command = '', ...before] = desktop.computer
      ? doorstepThere
      : [process.execPath, '--enable-source-maps', join(inject('root'), 'dist', 'doorstep.mjs')];
    const places = ['--home', desktop.home, '--downloads', join(desktop.home, 'Downloads')];
    return desktop.starter.start(
      'Doorstep',
      command,
      [
        ...[...before, 'join', '--link', link, '--display', desktop.displayThere],
        ...[...places, '--state', join(desktop.home, 'state')],
        ...beside.args,
      ],
      // What it registers for an account goes into the desktop's own home.
      { stdio: ['ignore', 'inherit', errors], env: { ...process.env, HOME: desktop.home, ...beside.env } },
    );
  }

  /** The command line, as its own process, with a home of its own. */
  porch(home: string, args: readonly string[], input = '', more: NodeJS.ProcessEnv = {}): Promise<ProgramResult> {
    const env = { PORCH_HOME: join(this.folder, home), PORCH_RUN_MARK: this.folder.split('/').at(-1), ...more };
    return runProgram('porch.mjs', args, env, input);
  }

  /** The operator's program, with this service's settings. */
  admin(args: readonly string[], input = '', env: NodeJS.ProcessEnv = {}): Promise<ProgramResult> {
    return runProgram('porch-admin.mjs', args, { ...this.settings(), ...env }, input);
  }

  async close(): Promise<void> {
    for (const connection of this.#connections) connection.close();
    for (const close of this.#closers) await close();
    await this.processes.stop();
    this.recordsLine?.close();
    // Hundreds of houses in one run: what they leave would fill the memory that the records lie in.
    await atPostgres(`DROP DATABASE IF EXISTS "${this.databaseUrl.split('/').at(-1)}" WITH (FORCE)`);
  }

  /** Cuts a participant's line without a word; it comes back by itself. */
  cut(connection: LiveConnection): void {
    this.#sockets.get(connection)?.terminate();
  }

  async #live(
    pass: () => ReturnType<RestClient['livePass']>,
    line?: (url: string) => string,
    can?: readonly Permission[],
  ): Promise<LiveConnection> {
    const connection: LiveConnection = new LiveConnection({
      pass,
      openSocket: (url) => {
        const socket = new WebSocket(line?.(url) ?? url);
        this.#sockets.set(connection, socket);
        return socket as unknown as SocketLike;
      },
      keys: makeKeys(),
      ciphers: nodeCiphers,
      ...(can ? { can } : {}),
    });
    this.#connections.push(connection);
    return connection.ready();
  }
}

async function atPostgres(sql: string): Promise<void> {
  const admin = new pg.Client({ connectionString: inject('postgresUrl') });
  await admin.connect();
  try {
    await admin.query(sql);
  } finally {
    await admin.end();
  }
}

function kill(child: ChildProcess | undefined, signal: NodeJS.Signals): Promise<void> {
  if (!child || child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
  return new Promise((resolve) => {
    child.once('exit', () => resolve());
    child.kill(signal);
  });
}

function exchangeWithCookie(base: () => string): HttpExchange {
  let cookie = '';
  return async (method, path, headers, body) => {
    const answer = await fetch(base() + path, {
      method,
      headers: { ...headers, ...(cookie ? { cookie } : {}) },
      ...(body === undefined ? {} : { body }),
    });
    const set = answer.headers.getSetCookie()[0]?.split(';')[0];
    if (set) cookie = set;
    return { status: answer.status, body: await answer.text() };
  };
}

/** Asks, lets the person press Yes at their own screen, and waits until it counts. */
export async function askAndAgree(
  technician: LiveConnection,
  person: PersonAtDesk,
  permissions: Permission[],
): Promise<void> {
  await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions });
  await person.answer(true, 1_100);
  await until(`${permissions.join()} to be allowed`, () =>
    permissions.every((p) => technician.state.standings[technician.participantId]?.[p]?.name === 'allowed'),
  );
}

/** A technician who sees and works: asked for and allowed, with a picture that is vouched for and a lease. */
export async function startWorking(technician: LiveConnection, person: PersonAtDesk) {
  await until('Doorstep', () => technician.state.holderId);
  await askAndAgree(technician, person, ['view-screen', 'control-input']);
  const seen = lookAt(technician);
  await until('a whole picture, vouched for', seen.isFresh);
  seen.lease.open();
  await until('a lease', () => seen.lease.state.name === 'open');
  return { ...seen, act: (...acts: InputAct[]) => acts.forEach((a) => seen.lease.act(a)) };
}
