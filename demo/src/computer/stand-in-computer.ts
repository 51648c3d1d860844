import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:net';
import type { ChildProcess, SpawnOptions } from 'node:child_process';
import { createInterface } from 'node:readline';
import { join } from 'node:path';
import { ensureFolderForAll, giveTo, X_SOCKETS } from '../account.ts';
import { endProcess, type Processes, type Starter } from '../processes.ts';
import { READY_MS } from '../x-windows.ts';
import { insideScript, keeperScript } from './boot-script.ts';
import type { ComputerOptions } from './computer-options.ts';
import { keptAwake } from './kept-awake.ts';
import { controlGroups, removeGroup, removeLeftGroups } from './control-groups.ts';
import { freeDisplay } from './displays.ts';
import { openGate } from './gates.ts';
import { signedInAt, type SignedIn } from './signed-in.ts';

const LOOK_MS = 20;
/** Of what its start printed, for who asks why it did not come up. */
const COMPLAINT_CHARS = 2_000;
/** Whoever started it may be killed: then nobody else would end it. */
const DIES_WITH_US = ['--pdeathsig', 'KILL'];
const GROUP_PREFIX = 'stand-in-';
const DISK_SIZE = '2g';
/**
 * A stand-in computer: this machine's own Debian, seen through an overlay and booted by its own systemd in namespaces of
 * its own, with a sign-in screen, accounts and services. It restarts as a computer does. What it writes is gone with it,
 * but for the homes of its people. It is no wall: whoever is administrator there is root of this machine's kernel.
 */
export class StandInComputer {
  readonly name: string;
  /** By which programs of this machine reach its screen. */
  readonly display: string;
  readonly #options: ComputerOptions;
  readonly #processes: Processes;
  readonly #group: string;
  readonly #keeper: ChildProcess;
  readonly #gates: Server[] = [];
  #bridge: ChildProcess | undefined;
  #init: number | undefined;
  #starts = 0;
  #complaints = '';
  #isClosed = false;

  private constructor(processes: Processes, options: ComputerOptions, groups: string, displayNumber: number) {
    this.name = options.name;
    this.#options = options;
    this.#processes = processes;
    this.#group = join(groups, `${GROUP_PREFIX}${options.name}-${randomBytes(3).toString('hex')}`);
    this.display = `:${displayNumber}`;
    const { width = 1280, height = 800 } = options;
    this.#keeper = processes.start(
      `computer ${options.name}`,
      'setpriv',
      [...DIES_WITH_US, 'unshare', '--mount', 'sh', '-c', keeperScript],
      {
        stdio: ['pipe', 'pipe', 'pipe'],
        env: {
          PATH: '/usr/sbin:/usr/bin:/sbin:/bin',
          DIR: join(options.folder, 'computer'),
          GROUP: this.#group,
          SIZE: DISK_SIZE,
          INSIDE: insideScript,
          NAME: options.name,
          MACHINE_ID: randomBytes(16).toString('hex'),
          PEOPLE: options.people
            .map((one) =>
              [one.login, one.uid, one.password, one.isAdministrator ? 'sudo,lpadmin' : '', one.home ?? ''].join(':'),
            )
            .join('\n'),
          SIGNS_IN: options.signsIn ?? '',
          SHOWS: (options.shows ?? []).map((one) => `${one.from}:${one.as}`).join('\n'),
          RESOLUTION: `${width}x${height}x24`,
        },
      },
    );
    const { stdout, stderr } = this.#keeper;
    if (stdout) createInterface({ input: stdout }).on('line', (line) => this.#hear(line));
    stderr?.on(
      'data',
      (part: Buffer) => (this.#complaints = (this.#complaints + part.toString()).slice(-COMPLAINT_CHARS)),
    );
  }

  /** Resolves once it is up, as `isUp` says. */
  static async boot(processes: Processes, options: ComputerOptions): Promise<StandInComputer> {
    const groups = controlGroups();
    if (groups === undefined) throw new Error('no control groups: ask `whyNoComputers` first');
    for (const part of ['computer', 'ports']) mkdirSync(join(options.folder, part), { recursive: true });
    for (const { home, uid } of options.people)
      if (home !== undefined) {
        mkdirSync(home, { recursive: true });
        giveTo({ uid, gid: uid }, home);
      }
    ensureFolderForAll(X_SOCKETS);
    await removeLeftGroups(groups, GROUP_PREFIX);
    const computer = new StandInComputer(processes, options, groups, freeDisplay());
    processes.closeBefore(() => computer.close());
    for (const port of options.reaches ?? [])
      computer.#gates.push(await openGate(join(options.folder, 'ports', String(port)), port));
    await computer.isUp();
    return computer;
  }

  /** How often it has started. */
  get starts(): number {
    return this.#starts;
  }

  get isOn(): boolean {
    return this.#init !== undefined;
  }

  /** While it runs there is a computer, on or off. */
  get keeper(): ChildProcess {
    return this.#keeper;
  }

  /** Its files, as this machine sees them, while it is on. */
  get root(): string {
    if (this.#init === undefined) throw new Error(`${this.name} is off`);
    return `/proc/${this.#init}/root`;
  }

  /** Resolves once its screen is there and, where somebody is signed in by itself, their desktop. */
  async isUp(afterStart = 1): Promise<void> {
    await this.#until(
      'its screen',
      () => this.#starts >= afterStart && this.#init !== undefined && existsSync(`${this.root}${X_SOCKETS}/X0`),
    );
    const { signsIn } = this.#options;
    if (signsIn === undefined) return;
    await this.#until('a desktop', () => this.#signedIn(signsIn));
    await this.#letUsSee(signsIn);
  }

  /** Whoever keeps this computer sees and works the screen that somebody is signed in at, as the person before it would. */
  async #letUsSee(login: string): Promise<void> {
    const allowing = this.startsFor(login).start('leave for us', 'xhost', ['+si:localuser:root']);
    const { status, complaints } = await endOf(allowing);
    if (status !== 0) throw new Error(`the screen of ${this.name} stays closed to us: ${complaints}`);
  }

  /** As when somebody pulls its plug: everything in it is dead at once. */
  async cutPower(): Promise<void> {
    const init = this.#init;
    writeFileSync(join(this.#group, 'cgroup.kill'), '1');
    await this.#until('its end', () => this.#init !== init || init === undefined);
  }

  /** After it went off, for whatever reason. */
  switchOn(): void {
    this.#keeper.stdin?.write('on\n');
  }

  /** A program in this computer as root, from outside and in nobody's session: to look into it, and to break it. */
  atIt(command: string, args: readonly string[]): ChildProcess {
    return keptAwake(
      this.#processes.start(`${command} at ${this.name}`, 'nsenter', [...this.#namespaces(), command, ...args], {
        env: { PATH: '/usr/sbin:/usr/bin:/sbin:/bin', HOME: '/root', LANG: 'C.UTF-8' },
      }),
      () => this.#init,
    );
  }

  /** What `atIt` prints; refused with what it complains of. */
  async read(command: string, ...args: string[]): Promise<string> {
    const { status, printed, complaints } = await endOf(this.atIt(command, args));
    if (status !== 0)
      throw new Error(`${command} at ${this.name} ended with ${String(status)}: ${complaints}${printed}`);
    return printed;
  }

  /** Starts programs in somebody's desktop session, as if they had. What is given as an account counts no longer. */
  startsFor(login: string): Starter {
    return {
      start: (name, command, args, options = {}) => this.#startFor(login, name, command, args, options),
    };
  }

  async close(): Promise<void> {
    if (this.#isClosed) return;
    this.#isClosed = true;
    rmSync(join(X_SOCKETS, `X${this.display.slice(1)}`), { force: true });
    for (const gate of this.#gates) gate.close();
    this.#keeper.stdin?.end();
    if (existsSync(join(this.#group, 'cgroup.kill'))) writeFileSync(join(this.#group, 'cgroup.kill'), '1');
    if (this.#bridge) await endProcess(this.#bridge);
    await endProcess(this.#keeper);
    await removeGroup(this.#group);
  }

  #hear(line: string): void {
    const [what, number] = line.split(' ');
    if (what === 'ended') this.#init = undefined;
    if (what !== 'booting' || this.#isClosed) return;
    this.#starts += 1;
    // Whoever waits for it to come up hears of it.
    this.#follow(Number(number)).catch((error: unknown) => (this.#complaints += String(error)));
  }

  /** Once its first process is there: its network is joined to ours, and its screen has a name here. */
  async #follow(keeper: number): Promise<void> {
    let init: number | undefined;
    await this.#until('its first process', () => (init = firstProcess(keeper)) !== undefined);
    if (init === undefined) return;
    this.#init = init;
    const link = join(X_SOCKETS, `X${this.display.slice(1)}`);
    rmSync(link, { force: true });
    symlinkSync(`/proc/${init}/root${X_SOCKETS}/X0`, link);
    const { reaches = [], bridge, folder, name } = this.#options;
    if (!reaches.length) return;
    this.#bridge = this.#processes.start(
      `bridge of ${name}`,
      'nsenter',
      [`--net=/proc/${init}/ns/net`, process.execPath, bridge, join(folder, 'ports'), ...reaches.map(String)],
      { stdio: ['ignore', 'ignore', 'inherit'] },
    );
  }

  #namespaces(): string[] {
    if (this.#init === undefined) throw new Error(`${this.name} is off`);
    return [
      '--target',
      String(this.#init),
      '--mount',
      '--uts',
      '--ipc',
      '--net',
      '--cgroup',
      '--pid',
      '--root',
      '--wd',
      '--',
    ];
  }

  #startFor(
    login: string,
    name: string,
    command: string,
    args: readonly string[],
    options: SpawnOptions,
  ): ChildProcess {
    const session = this.#signedIn(login);
    const person = this.#options.people.find((one) => one.login === login);
    if (!session || !person) throw new Error(`${login} is not signed in at ${this.name}`);
    // Of what it is started with here, only what was said for it.
    const said = Object.entries(options.env ?? {}).filter(([key, value]) => process.env[key] !== value);
    const env = { PATH: '/usr/local/bin:/usr/bin:/bin', ...Object.fromEntries(said), ...session.env };
    const inside = [
      ...[
        'setpriv',
        '--reuid',
        String(person.uid),
        '--regid',
        String(person.uid),
        '--init-groups',
        '--pdeathsig',
        'TERM',
      ],
      ...[
        'env',
        '-i',
        `--chdir=${String(options.cwd ?? `/home/${login}`)}`,
        `HOME=/home/${login}`,
        'LANG=C.UTF-8',
        ...Object.entries(env).map(([key, value]) => `${key}=${value ?? ''}`),
      ],
      ...[command, ...args],
    ];
    return keptAwake(
      this.#processes.start(
        name,
        'sh',
        ['-c', 'echo $$ > "$0" && exec nsenter "$@"', session.group, ...this.#namespaces(), ...inside],
        { stdio: options.stdio ?? ['ignore', 'pipe', 'pipe'] },
      ),
      () => this.#init,
    );
  }

  #signedIn(login: string): SignedIn | undefined {
    const uid = this.#options.people.find((one) => one.login === login)?.uid;
    return this.#init === undefined || uid === undefined ? undefined : signedInAt(this.#init, uid);
  }

  async #until(what: string, isSo: () => unknown): Promise<void> {
    const giveUpAtMs = Date.now() + READY_MS;
    while (!isSo()) {
      if (this.#isClosed) return;
      if (Date.now() > giveUpAtMs || this.#keeper.exitCode !== null)
        throw new Error(`${what} did not come at ${this.name}: ${this.#complaints}`);
      await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
    }
  }
}

function firstProcess(keeper: number): number | undefined {
  try {
    const [child] = readFileSync(`/proc/${keeper}/task/${keeper}/children`, 'utf8').trim().split(' ');
    return child ? Number(child) : undefined;
  } catch {
    return undefined;
  }
}

/** How a program ended, and what it said. */
async function endOf(child: ChildProcess): Promise<{ status: unknown; printed: string; complaints: string }> {
  let [printed, complaints] = ['', ''];
  child.stdout?.on('data', (part: Buffer) => (printed += part.toString()));
  child.stderr?.on('data', (part: Buffer) => (complaints += part.toString()));
  const status = await new Promise((resolve) => child.once('close', resolve));
  return { status, printed, complaints };
}
