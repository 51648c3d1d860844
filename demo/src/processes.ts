import { spawn, type ChildProcess, type SpawnOptions } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { createInterface } from 'node:readline';

const STOP_MS = 4_000;
const READY_MS = 90_000;

/** Every process of one demo or test run carries this in its environment, so that a later run can find what was left. */
const MARK = 'PORCH_RUN_MARK';

/** What starts programs: on this machine, or at a stand-in computer as somebody. */
export interface Starter {
  start(name: string, command: string, args: readonly string[], options?: SpawnOptions): ChildProcess;
}

/** The programs that belong to one run: started, waited for, and stopped in the opposite order. */
export class Processes implements Starter {
  readonly #mark: string;
  readonly #node: string;
  readonly #running: { name: string; child: ChildProcess }[] = [];
  readonly #closers: (() => Promise<void>)[] = [];
  #isStopping = false;
  /** Told when a program ends that should not. */
  onUnexpectedEnd: (name: string) => void = () => undefined;

  /** `node`: what programs of ours run on. */
  constructor(mark: string, node = process.execPath) {
    this.#mark = mark;
    this.#node = node;
  }

  start(name: string, command: string, args: readonly string[], options: SpawnOptions = {}): ChildProcess {
    const child = spawn(command, args, {
      stdio: ['ignore', 'pipe', 'pipe'],
      ...options,
      env: { ...(options.env ?? process.env), [MARK]: this.#mark },
    });
    const running = { name, child };
    this.#running.push(running);
    child.on('error', () => this.#forget(running, name));
    child.on('exit', () => this.#forget(running, name));
    return child;
  }

  /** Starts a program of ours that prints one line of JSON when it is ready. */
  async startReady(
    name: string,
    script: string,
    env: NodeJS.ProcessEnv,
    args: readonly string[] = [],
    onOutput?: (part: Buffer) => void,
  ): Promise<{ child: ChildProcess; url: string }> {
    const child = this.start(name, this.#node, ['--enable-source-maps', script, ...args], {
      env: { ...process.env, ...env },
    });
    if (onOutput) for (const stream of [child.stdout, child.stderr]) stream?.on('data', onOutput);
    let complaints = '';
    child.stderr?.on('data', (part: Buffer) => (complaints = (complaints + part.toString()).slice(-4000)));
    let last = '';
    const lines = child.stdout ? createInterface({ input: child.stdout }) : undefined;
    const url = await new Promise<string>((resolve, reject) => {
      const timer = setTimeout(
        () => reject(new Error(`${name} was not ready in time: ${complaints} ${last}`)),
        READY_MS,
      );
      child.once('exit', (code) => {
        clearTimeout(timer);
        reject(new Error(`${name} ended with ${code}: ${complaints} ${last}`));
      });
      lines?.on('line', (line) => {
        last = line;
        if (!line.startsWith('{"ready":true')) return;
        clearTimeout(timer);
        resolve((JSON.parse(line) as { url: string }).url);
      });
    });
    return { child, url };
  }

  /** What is more than a process, and goes before them. */
  closeBefore(close: () => Promise<void>): void {
    this.#closers.push(close);
  }

  async stop(): Promise<void> {
    this.#isStopping = true;
    await Promise.all(this.#closers.splice(0).map((close) => close()));
    for (const { child } of [...this.#running].reverse()) await endProcess(child);
    await this.endLeftovers();
  }

  /** Ends what an earlier run with the same mark left behind. Linux tells the environment of our own processes. */
  async endLeftovers(): Promise<void> {
    const left = () =>
      readdirSync('/proc')
        .filter((name) => /^\d+$/.test(name) && Number(name) !== process.pid)
        .filter((pid) => environmentOf(pid).includes(`${MARK}=${this.#mark}\0`))
        .map(Number);
    for (const signal of ['SIGTERM', 'SIGKILL'] as const) {
      const pids = left();
      if (!pids.length) return;
      for (const pid of pids) killQuietly(pid, signal);
      const giveUpAt = Date.now() + STOP_MS;
      while (left().length && Date.now() < giveUpAt) await new Promise((resolve) => setTimeout(resolve, 50));
    }
  }

  #forget(running: { name: string; child: ChildProcess }, name: string): void {
    const at = this.#running.indexOf(running);
    if (at < 0) return;
    this.#running.splice(at, 1);
    if (!this.#isStopping) this.onUnexpectedEnd(name);
  }
}

function environmentOf(pid: string): string {
  try {
    return `${readFileSync(`/proc/${pid}/environ`, 'utf8')}\0`;
  } catch {
    return ''; // It is gone, or somebody else's.
  }
}

function killQuietly(pid: number, signal: NodeJS.Signals): void {
  try {
    process.kill(pid, signal);
  } catch {
    // Gone between looking and killing.
  }
}

export function endProcess(child: ChildProcess, signal: NodeJS.Signals = 'SIGTERM'): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null || child.pid === undefined) return Promise.resolve();
  return new Promise((resolve) => {
    const insist = setTimeout(() => child.kill('SIGKILL'), STOP_MS);
    child.once('exit', () => {
      clearTimeout(insist);
      resolve();
    });
    child.kill(signal);
  });
}
