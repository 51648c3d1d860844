import { spawn, type ChildProcess } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { hearLines, writeLine } from '../json-lines.ts';
import { ownCommand } from '../release/self.ts';
import { callersUid } from '../system/callers-uid.ts';
import { withLogind } from '../system/logind.ts';
import { runCommand, SYSTEM_PATH } from '../system/run-command.ts';
import { bellHere, FromAnswering, leadsTo, ToBell, type FromBell, type Hung, type ToAnswering } from './bell.ts';
import { signedInHere, type SignedInHere } from './signed-in-here.ts';

/*
 * What runs as root for one ring. It starts Doorstep's question at the desktop of somebody who is signed in, as that person
 * and in their own part of the system, and passes on what they answer. Whoever rings is believed nothing but which desktop
 * is meant: the link has to lead to the one help desk, and the question is put by what the computer's owner installed.
 */

/** Whoever connects and says nothing rings nowhere. */
const SAY_MS = 5_000;
/** Longer than anybody is asked for. */
const MOST_MS = 4 * 60_000;
/** A question that was taken away is gone by then, or is ended. */
const GONE_MS = 2_000;
/** Nobody is asked again within this, whoever rings. */
const QUIET_MS = 5_000;
const LOOK_MS = 5_000;
const RUNG = '/run/zesty-porch-bell';
const MAX_VALUE_CHARACTERS = 4_000;
/** What a desktop's programs know of it, and Doorstep needs. */
const OF_DESKTOP = ['XAUTHORITY', 'LANG', 'LANGUAGE', 'LC_ALL', 'LC_MESSAGES', 'XDG_CURRENT_DESKTOP', 'PULSE_SERVER'];
const NOBODY = 'nobody can be asked at that desktop';

class BellPart {
  readonly #caller: number | undefined;
  #isAsked = false;
  #answering: ChildProcess | undefined;
  #hasAnswered = false;
  #takeBack: () => void = () => undefined;

  constructor(caller: number | undefined) {
    this.#caller = caller;
  }

  start(): void {
    setTimeout(() => {
      if (!this.#isAsked) this.#end();
    }, SAY_MS);
    setTimeout(() => this.#end(), MOST_MS);
    process.stdout.on('error', () => this.#end());
    process.on('SIGTERM', () => this.#end());
    hearLines(
      process.stdin,
      ToBell,
      (line) => this.#take(line),
      () => this.#end(),
    );
  }

  #take(line: ToBell): void {
    if (this.#isAsked) return this.#end();
    this.#isAsked = true;
    this.#ring(line).catch((error: unknown) => {
      process.stderr.write(`doorstep: ${String(error)}\n`);
      this.#say({ says: 'refused', why: 'it failed at the computer' });
    });
  }

  async #ring({ ring, link }: ToBell): Promise<void> {
    const hung = bellHere();
    if (!hung || !leadsTo(link, hung.service))
      return this.#say({ says: 'refused', why: 'the link does not lead to this help desk' });
    const all = await withLogind(signedInHere);
    const whose = all.find(({ id }) => id === ring);
    if (!whose || !mayRing(whose, all, this.#caller, hung)) return this.#say({ says: 'refused', why: NOBODY });
    const env = desktopOf(whose);
    const gid = await groupOf(whose.uid);
    if (!env || gid === undefined) return this.#say({ says: 'refused', why: NOBODY });
    const release = takeTurn(ring);
    if (!release) return this.#say({ says: 'refused', why: 'somebody is being asked there already' });
    process.stderr.write(`account ${this.#caller} rings at desktop ${ring}\n`);
    this.#ask({ ...whose, gid }, env, link, release);
  }

  #ask(
    whose: SignedInHere & { readonly gid: number },
    env: NodeJS.ProcessEnv,
    link: string,
    release: () => void,
  ): void {
    const unit = `doorstep-${randomBytes(6).toString('hex')}`;
    const { uid, gid } = whose;
    // Nothing of root's goes along, its group neither.
    const as = { uid, gid, env: theirOwn(uid), cwd: '/' };
    const settings = Object.entries(env).flatMap(([name, value]) => ['-E', `${name}=${value}`]);
    const quietly = ['--user', '--quiet', '--collect', '--pipe', '--wait', `--unit=${unit}`];
    const journal = ['-p', 'StandardError=journal', '-p', 'TimeoutStopSec=3'];
    const child = spawn(
      'systemd-run',
      [...quietly, ...journal, ...settings, '--', ...ownCommand(), 'answer-bell', ...placesOf(whose)],
      { ...as, stdio: ['pipe', 'pipe', 'inherit'] },
    );
    this.#answering = child;
    this.#takeBack = () => {
      child.stdin.end();
      // Only where it does not go by itself, which it does once that pipe closes.
      setTimeout(() => spawn('systemctl', ['--user', 'stop', `${unit}.service`], as).unref(), GONE_MS);
    };
    child.stdin.on('error', () => undefined);
    child.once('error', () => {
      release();
      this.#say({ says: 'refused', why: NOBODY });
    });
    hearLines(
      child.stdout,
      FromAnswering,
      ({ says }) => {
        release();
        this.#say({ says });
      },
      () => undefined,
    );
    child.once('close', () => {
      release();
      this.#say({ says: 'not-answered' });
    });
    writeLine(child.stdin, { link } satisfies ToAnswering);
    writeLine(process.stdout, { says: 'rings' } satisfies FromBell);
  }

  /** Once: then whoever rang knows, and this part is not needed any longer. */
  #say(line: FromBell): void {
    if (this.#hasAnswered) return;
    this.#hasAnswered = true;
    process.stdout.write(`${JSON.stringify(line)}\n`, () => process.exit(0));
  }

  /** Nobody wants it any longer: what is asked goes with it. */
  #end(): void {
    if (this.#hasAnswered || !this.#answering) process.exit(0);
    this.#hasAnswered = true;
    const { exitCode, signalCode } = this.#answering;
    if (exitCode !== null || signalCode !== null) process.exit(0);
    this.#answering.once('close', () => process.exit(0));
    this.#takeBack();
    setTimeout(() => process.exit(0), 2 * GONE_MS);
  }
}

/** Only who is signed in here rings, at another's desktop; at the sign-in screen only where the owner opened it. */
function mayRing(
  { kind, uid }: SignedInHere,
  all: readonly SignedInHere[],
  caller: number | undefined,
  { hasSignInScreen }: Hung,
): boolean {
  const isSignedIn = caller !== undefined && caller !== uid && all.some((one) => one.uid === caller);
  return isSignedIn && (kind === 'person' || (kind === 'sign-in-screen' && hasSignInScreen));
}

/** Of an account, as the computer's list of them says (passwd(5)). */
async function groupOf(uid: number): Promise<number | undefined> {
  const row = await runCommand('getent', ['passwd', '--', String(uid)], AbortSignal.timeout(LOOK_MS));
  const [, , number, group = ''] = row.split(':');
  return number === String(uid) && /^\d+$/.test(group) ? Number(group) : undefined;
}
/** Where somebody's own part of the system is, as its tools are told. */
const theirOwn = (uid: number): NodeJS.ProcessEnv => {
  const folder = `/run/user/${uid}`;
  return {
    ...{ PATH: SYSTEM_PATH, LC_ALL: 'C', XDG_RUNTIME_DIR: folder },
    DBUS_SESSION_BUS_ADDRESS: `unix:path=${folder}/bus`,
  };
};
/** A sign-in screen's account has no home of its own: what is kept there goes with it. */
const placesOf = ({ kind, uid }: SignedInHere): string[] => {
  if (kind !== 'sign-in-screen') return [];
  const folder = `/run/user/${uid}/zesty-porch`;
  return ['--sign-in-screen', '--state', folder, '--home', folder, '--downloads', folder];
};

/** What the programs of a desktop know of it: read from those that run there, as that person. */
function desktopOf({ id, uid, display }: SignedInHere): Record<string, string> | undefined {
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name))) {
    const env = envOf(pid, uid);
    if (env?.['XDG_SESSION_ID'] !== id || env['DISPLAY'] !== display) continue;
    const named = OF_DESKTOP.flatMap((name) => {
      const value = env[name];
      return value === undefined || value.length > MAX_VALUE_CHARACTERS ? [] : [[name, value] as const];
    });
    return { ...Object.fromEntries(named), DISPLAY: display, XDG_SESSION_ID: id };
  }
  return undefined;
}
/** Of a program of that account; undefined for another's, and for one that has gone. */
function envOf(pid: string, uid: number): Record<string, string> | undefined {
  try {
    if (statSync(`/proc/${pid}`).uid !== uid) return undefined;
    const text = readFileSync(`/proc/${pid}/environ`, 'utf8');
    return Object.fromEntries(
      text
        .split('\0')
        .flatMap((one) => (one.includes('=') ? [[one.split('=', 1)[0] ?? '', one.slice(one.indexOf('=') + 1)]] : [])),
    ) as Record<string, string>;
  } catch {
    return undefined; // It went meanwhile.
  }
}

/** One ring at a time for each desktop, and a moment between two; undefined while it is not anybody's turn. */
function takeTurn(desktop: string): (() => void) | undefined {
  mkdirSync(RUNG, { recursive: true, mode: 0o700 });
  const file = join(RUNG, desktop);
  if (existsSync(file)) {
    const mostMs = readFileSync(file, 'utf8') === '' ? MOST_MS : QUIET_MS;
    if (Date.now() - statSync(file).mtimeMs < mostMs) return undefined;
    rmSync(file, { force: true });
  }
  try {
    writeFileSync(file, '', { flag: 'wx', mode: 0o600 });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'EEXIST') return undefined;
    throw error;
  }
  return () => writeFileSync(file, 'over', { mode: 0o600 });
}

/** `connection`: as systemd names it, which ends with whose it is. */
export function runBellPart(connection: string): Promise<never> {
  if (process.getuid?.() !== 0) throw new Error('this part is started by the computer, when somebody rings');
  for (const signal of ['SIGINT', 'SIGHUP'] as const) process.on(signal, () => undefined);
  new BellPart(callersUid({}, connection)).start();
  return new Promise(() => undefined);
}
