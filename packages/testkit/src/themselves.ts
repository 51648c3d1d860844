import type { XDesktop } from '@porch/demo';
import { chownSync, mkdirSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

/** Somebody at their own computer, outside of anything of ours: what they run, write, and have as services of their own. */
export class Themselves {
  readonly #home: string;
  readonly #computer: NonNullable<XDesktop['computer']>;
  readonly #login: string;
  readonly #uid: number;

  constructor({ home, computer }: XDesktop, login = 'bettina') {
    if (!computer) throw new Error('a desktop without its computer');
    this.#home = home;
    this.#computer = computer;
    this.#login = login;
    this.#uid = statSync(home).uid;
  }

  /** What a command of theirs prints. */
  run = (...command: string[]): Promise<string> =>
    this.#computer.read(
      'runuser',
      ...['-u', this.#login, '--', 'env', `XDG_RUNTIME_DIR=/run/user/${this.#uid}`, ...command],
    );

  folder(path: string): void {
    if (path === '.') return;
    this.folder(dirname(path));
    const at = join(this.#home, path);
    mkdirSync(at, { recursive: true });
    chownSync(at, this.#uid, this.#uid);
  }
  file(path: string, text: string): void {
    this.folder(dirname(path));
    writeFileSync(join(this.#home, path), text);
    chownSync(join(this.#home, path), this.#uid, this.#uid);
  }

  /** Services of theirs that do nothing, by what stands in `[Unit]`; the last one is started, with what it needs. */
  async services(units: Readonly<Record<string, string>>): Promise<void> {
    for (const [name, unit] of Object.entries(units))
      this.file(
        `.config/systemd/user/${name}.service`,
        `[Unit]\n${unit}\n[Service]\nExecStart=/usr/bin/sleep 7777\n[Install]\nWantedBy=default.target\n`,
      );
    await this.run('systemctl', '--user', 'daemon-reload');
    const last = Object.keys(units).at(-1);
    if (last !== undefined) await this.start(last);
  }
  start = (name: string): Promise<string> => this.run('systemctl', '--user', 'start', name);
  /** How each of them is, as systemd says it. */
  async areActive(...names: string[]): Promise<string[]> {
    return (await this.run('sh', '-c', `systemctl --user is-active ${names.join(' ')}; true`)).trim().split('\n');
  }
}
