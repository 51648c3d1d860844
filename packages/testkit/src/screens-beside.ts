import { freeDisplay, passwordOf, PersonAtDesk, X_SOCKETS, type XDesktop } from '@porch/demo';
import { existsSync, readFileSync, rmSync, symlinkSync } from 'node:fs';
import { join } from 'node:path';
import { InFront } from './in-front.ts';
import { until } from './until.ts';

const RETURN_KEYCODE = 36;
/** Where a sign-in screen keeps what lets somebody onto its display. */
const AUTHORITY = '/var/run/lightdm/root';
const LOG = 'var/log/lightdm/lightdm.log';

export interface DesktopBeside {
  /** By which it is reached from outside. */
  readonly display: string;
  readonly person: PersonAtDesk;
}

/** The screens of a stand-in computer beside its first one: its sign-in screen, and who signs in there. */
export class ScreensBeside {
  readonly #computer: NonNullable<XDesktop['computer']>;
  readonly #inFront: InFront;
  readonly #closers: (() => void)[] = [];

  constructor(desktop: XDesktop) {
    if (!desktop.computer) throw new Error('a desktop without its computer');
    this.#computer = desktop.computer;
    this.#inFront = new InFront(desktop);
  }

  /** The sign-in screen, in front of whoever is signed in. */
  async signInScreen(number = 1): Promise<DesktopBeside> {
    const asked = this.#prompts();
    await this.#inFront.signInScreen();
    await until('its question', () => this.#prompts() > asked);
    const there = [`DISPLAY=:${number}`, `XAUTHORITY=${AUTHORITY}/:${number}`];
    await this.#computer.read('env', ...there, 'xhost', '+si:localuser:root');
    return this.#reach(number);
  }

  /** Somebody signs in at the sign-in screen, as people do; their desktop is in front from then on. */
  async signIn(login: 'bettina' | 'samir', number = 1): Promise<DesktopBeside> {
    const { person } = await this.signInScreen(number);
    const types = async (text: string) => {
      const asked = this.#prompts();
      await person.type(text);
      await person.tapKey(RETURN_KEYCODE);
      return asked;
    };
    const asked = await types(login);
    await until('the password to be asked for', () => this.#prompts() > asked);
    await types(passwordOf(login));
    person.close();
    await until(`${login} to be signed in`, async () => {
      const at = await this.#computer.read('sh', '-c', 'pgrep -u "$0" -x openbox || true', login);
      return at.trim() !== '';
    });
    const leave = this.#computer.startsFor(login).start('leave', 'xhost', ['+si:localuser:root'], { stdio: 'ignore' });
    await new Promise((resolve) => leave.once('close', resolve));
    return this.#reach(number);
  }

  close(): void {
    this.#closers.forEach((close) => close());
  }

  async #reach(number: number): Promise<DesktopBeside> {
    const socket = `X${number}`;
    await until('its screen', () => existsSync(join(`${this.#computer.root}${X_SOCKETS}`, socket)));
    const display = `:${freeDisplay()}`;
    const link = join(X_SOCKETS, `X${display.slice(1)}`);
    // Its number was taken by a link that leads nowhere yet.
    rmSync(link, { force: true });
    symlinkSync(`${this.#computer.root}${X_SOCKETS}/${socket}`, link);
    const person = await PersonAtDesk.at(display);
    this.#closers.push(() => {
      person.close();
      rmSync(link, { force: true });
    });
    return { display, person };
  }
  /** How often somebody was asked for something at a sign-in screen. */
  #prompts(): number {
    return readFileSync(join(this.#computer.root, LOG), 'utf8').split('Prompt greeter').length - 1;
  }
}
