import { fetchExchange, LiveConnection, RestClient, type SocketLike } from '@porch/client';
import { nodeCiphers } from '@porch/client/node';
import {
  createDatabase,
  freePort,
  deskSettings,
  doorstepThere,
  emailOf,
  loadTechnicians,
  PASSWORD,
  PersonAtDesk,
  Processes,
  besideTheScreen,
  type SlowLine,
  startDesktop,
  theirComputer,
  startSound,
  startPostgres,
  type RunningPostgres,
  type XDesktop,
} from '@porch/demo';
import { allPermissions, rulesOf, type Permission } from '@porch/core';
import { makeKeys } from '@porch/wire';
import type { ChildProcess } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { chmodSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { WebSocket } from 'ws';

const CLOCK_TICKS = 100;
const PAGE_BYTES = 4096;
export const dist = dirname(fileURLToPath(import.meta.url));
/** What shows a picture alone, and what a technician works with. */
const look = allPermissions.filter((one) => rulesOf(one).showsPicture);
export const lookAndWork: Permission[] = [
  ...look,
  ...allPermissions.filter((one) => rulesOf(one).isHandsOn && rulesOf(one).isUsual),
];
export const sleep = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

/** Waits for what a bench needs before it can measure. */
export async function until<T>(what: string, look: () => T | undefined | false, forMs = 30_000): Promise<T> {
  for (const untilMs = performance.now() + forMs; performance.now() < untilMs; await sleep(20)) {
    const found = look();
    if (found) return found;
  }
  throw new Error(`waited in vain for ${what}`);
}

/** Processor milliseconds that a process has used, in user and kernel mode. */
export function processorMs(pid: number): number {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]?.split(' ') ?? [];
  return ((Number(fields[11]) + Number(fields[12])) * 1000) / CLOCK_TICKS;
}
export function residentBytes(pid: number): number {
  return Number(readFileSync(`/proc/${pid}/statm`, 'utf8').split(' ')[1]) * PAGE_BYTES;
}

/** A service of its own with a throw-away PostgreSQL, for one bench. */
export class BenchHouse {
  readonly folder: string;
  readonly processes: Processes;
  url: string;
  servicePid: number;
  #service: ChildProcess;
  readonly #env: Readonly<Record<string, string>>;
  readonly databaseUrl: string;
  readonly #postgres: RunningPostgres;
  readonly #folders: string[] = [];

  private constructor(
    folder: string,
    processes: Processes,
    postgres: RunningPostgres,
    service: { url: string; child: ChildProcess },
    env: Readonly<Record<string, string>>,
    databaseUrl: string,
  ) {
    this.databaseUrl = databaseUrl;
    this.folder = folder;
    this.processes = processes;
    this.#postgres = postgres;
    this.url = service.url;
    this.servicePid = service.child.pid ?? 0;
    this.#service = service.child;
    this.#env = env;
  }

  static async open(more: Readonly<Record<string, string>> = {}): Promise<BenchHouse> {
    const folder = mkdtempSync('/var/tmp/zesty-porch-bench-');
    chmodSync(folder, 0o711);
    const processes = new Processes(randomBytes(6).toString('hex'));
    const postgres = await startPostgres({ folder: join(folder, 'postgres'), isThrowaway: true });
    const databaseUrl = await createDatabase(postgres, 'porch');
    const secret = join(folder, 'secret');
    writeFileSync(secret, randomBytes(32).toString('hex'), { mode: 0o600 });
    const env = {
      ...deskSettings,
      PORCH_DATABASE_URL: databaseUrl,
      PORCH_SECRET_FILE: secret,
      PORCH_PORT: '0',
      PORCH_LOG_LEVEL: 'error',
      PORCH_WEB_DIR: join(dist, 'web'),
      ...more,
    };
    const first = await processes.startReady('service', join(dist, 'service.mjs'), env);
    const ended = new Promise((resolve) => first.child.once('exit', resolve));
    first.child.kill('SIGTERM');
    await ended;
    await loadTechnicians(databaseUrl);
    const { child, url } = await processes.startReady('service', join(dist, 'service.mjs'), env);
    return new BenchHouse(folder, processes, postgres, { url, child }, env, databaseUrl);
  }

  /** It knows nothing of what it had in memory. */
  async restartService(): Promise<void> {
    const ended = new Promise((resolve) => this.#service.once('exit', resolve));
    this.#service.kill('SIGTERM');
    await ended;
    const { child, url } = await this.processes.startReady('service', join(dist, 'service.mjs'), this.#env);
    this.#service = child;
    this.servicePid = child.pid ?? 0;
    this.url = url;
  }

  /** The stand-in ticket system: whoever comes by the link in a ticket of theirs is known. */
  static async openWithTickets(more: NodeJS.ProcessEnv = {}): Promise<BenchHouse> {
    const [port, key] = [await freePort(), randomBytes(16).toString('hex')];
    const keys = mkdtempSync('/var/tmp/zesty-porch-bench-');
    const keyFile = join(keys, 'tickets-key');
    writeFileSync(keyFile, key, { mode: 0o600 });
    const house = await BenchHouse.open({
      PORCH_TICKETS_URL: `http://127.0.0.1:${port}`,
      PORCH_TICKETS_KEY_FILE: keyFile,
      ...more,
    });
    house.#folders.push(keys);
    await house.processes.startReady('tickets', join(dist, 'tickets.mjs'), {
      TICKETS_PORT: String(port),
      TICKETS_DATA_FILE: join(house.folder, 'tickets.json'),
      TICKETS_KEY_FILE: keyFile,
    });
    return house;
  }

  async signedIn(name = 'Pim Aldersey'): Promise<RestClient> {
    const rest = new RestClient(fetchExchange(this.url));
    rest.token = (await rest.signIn(emailOf(name), PASSWORD, 'token')).token;
    return rest;
  }

  technician(rest: RestClient, sessionId: string): Promise<LiveConnection> {
    return live(() => rest.livePass(sessionId));
  }

  /** A Doorstep's connection without a desktop. */
  async bareDoorstep(link: string): Promise<LiveConnection> {
    const rest = new RestClient(fetchExchange(this.url));
    rest.token = (await rest.join({ link: link.split('/').at(-1) ?? '', as: 'doorstep' })).token;
    return live(() => rest.doorLive());
  }

  /** A real desktop of this size with its person, and a real Doorstep in the session. */
  async withDoorstep(
    link: string,
    width: number,
    height: number,
    { programs = 'all', line }: { programs?: 'all' | 'none'; line?: SlowLine } = {},
  ) {
    const bare = await startDesktop(this.processes, {
      name: 'the bench',
      home: join(this.folder, 'home'),
      width,
      height,
      programs,
      camera: [process.execPath, join(dist, 'camera.mjs')],
    });
    // A sound server on which nothing plays but what a bench has played.
    const sound =
      programs === 'all' ? await startSound(this.processes, { name: 'the bench', home: bare.home }) : undefined;
    const desktop: XDesktop = { ...bare, ...(sound ? { sound } : {}) };
    const person = await PersonAtDesk.at(desktop.display);
    const doorstep = this.#startDoorstep(line ? line.over(link) : link, desktop);
    // The questions of a customer who came without a page.
    for (let i = 0; i < 2; i++) await person.answer(true, 1_200);
    return { desktop, person, doorstepPid: doorstep.pid ?? 0 };
  }

  /** A whole computer with its person, and a real Doorstep in the session. */
  async withComputer(link: string) {
    const folder = join(this.folder, 'computer');
    const desktop = await startDesktop(this.processes, {
      ...{ name: 'the bench', home: join(folder, 'home'), programs: 'none' },
      computer: theirComputer('bettina', {
        ...{ folder, home: join(folder, 'home'), dist, ports: [Number(new URL(this.url).port)] },
      }),
    });
    const person = await PersonAtDesk.at(desktop.display);
    this.#startDoorstep(link, desktop);
    for (let i = 0; i < 2; i++) await person.answer(true, 1_200);
    return { desktop, person };
  }

  async close(): Promise<void> {
    await this.processes.stop();
    await this.#postgres.stop();
    for (const folder of [this.folder, ...this.#folders]) rmSync(folder, { recursive: true, force: true });
  }

  #startDoorstep(link: string, desktop: XDesktop) {
    const beside = besideTheScreen(desktop);
    const [command = '', ...before] = desktop.computer ? doorstepThere : [process.execPath, join(dist, 'doorstep.mjs')];
    return desktop.starter.start(
      'Doorstep',
      command,
      [
        ...before,
        'join',
        ...['--link', link, '--display', desktop.displayThere, '--home', desktop.home],
        ...['--state', join(desktop.home, 'state'), '--downloads', join(desktop.home, 'Downloads')],
        ...beside.args,
      ],
      { stdio: ['ignore', 'ignore', 'inherit'], env: { ...process.env, ...beside.env } },
    );
  }
}

const live = (pass: () => ReturnType<RestClient['livePass']>): Promise<LiveConnection> =>
  new LiveConnection({
    pass,
    openSocket: (url) => new WebSocket(url) as unknown as SocketLike,
    keys: makeKeys(),
    ciphers: nodeCiphers,
  }).ready();
