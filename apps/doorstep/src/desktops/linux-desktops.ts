import { RingRefused, type DesktopsPort } from '@porch/host';
import type { DesktopRow, WhyNoRing } from '@porch/wire';
import { existsSync } from 'node:fs';
import { createConnection } from 'node:net';
import { hearLines, writeLine } from '../json-lines.ts';
import { Logind } from '../system/logind.ts';
import { runCommand } from '../system/run-command.ts';
import { BELL, bellHere, FromBell, leadsTo, type ToBell } from './bell.ts';
import { signedInHere, type SignedInHere } from './signed-in-here.ts';

const MAX_NAME_CHARACTERS = 80;
const NAME_MS = 2_000;
const SILENT = 'nobody answers the bell of this computer';

/** Who is signed in under Linux, as systemd's logind says (org.freedesktop.login1(5)), and the bell at their desktops. */
export class LinuxDesktops implements DesktopsPort {
  readonly #logind: Logind;
  readonly #own: string | undefined;
  readonly #serviceUrl: string;
  readonly #listeners = new Set<() => void>();
  /** As the list of accounts says who somebody is; it is asked once. */
  readonly #names = new Map<string, string>();

  private constructor(logind: Logind, own: string | undefined, serviceUrl: string) {
    this.#logind = logind;
    this.#own = own;
    this.#serviceUrl = serviceUrl;
  }

  /** Throws where there is no logind: then nobody knows who is signed in. */
  static async open(serviceUrl: string): Promise<LinuxDesktops> {
    const logind = await Logind.open();
    try {
      const desktops = new LinuxDesktops(logind, (await logind.ownSession())?.id, serviceUrl);
      await logind.onSessionsChanged(() => desktops.#listeners.forEach((listener) => listener()));
      return desktops;
    } catch (error) {
      logind.close();
      throw error;
    }
  }

  async list(): Promise<DesktopRow[]> {
    const rows = (await signedInHere(this.#logind)).sort(
      (a, b) => Number(b.isActive) - Number(a.isActive) || a.sinceMs - b.sinceMs,
    );
    return Promise.all(rows.map((one) => this.#rowOf(one)));
  }
  onChanged(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  ring(desktop: string, link: string, signal: AbortSignal, begun: () => void): Promise<'came' | 'no' | 'not-answered'> {
    if (!leadsTo(link, this.#serviceUrl)) throw new RingRefused('the link does not lead to this help desk');
    return new Promise((resolve, reject) => {
      const socket = createConnection(BELL.socket);
      const giveUp = () => {
        socket.destroy();
        resolve('not-answered');
      };
      const over = (settle: () => void) => {
        signal.removeEventListener('abort', giveUp);
        socket.destroy();
        settle();
      };
      socket.once('connect', () => writeLine(socket, { ring: desktop, link } satisfies ToBell));
      const take = (line: FromBell) => {
        if (line.says === 'rings') begun();
        else over(() => (line.says === 'refused' ? reject(new RingRefused(line.why)) : resolve(line.says)));
      };
      hearLines(socket, FromBell, take, () => over(() => reject(new RingRefused(SILENT))));
      signal.addEventListener('abort', giveUp, { once: true });
      if (signal.aborted) giveUp();
    });
  }

  close(): void {
    this.#listeners.clear();
    this.#logind.close();
  }

  async #rowOf(one: SignedInHere): Promise<DesktopRow> {
    const { id, account, kind, isActive, sinceMs } = one;
    const whyNot = this.#whyNot(one);
    const name = await this.#nameOf(account);
    return {
      ...{ desktop: id, account: account.slice(0, MAX_NAME_CHARACTERS), name, kind, isInFront: isActive, sinceMs },
      ...(whyNot ? { whyNot } : {}),
    };
  }
  #whyNot({ id, kind }: SignedInHere): WhyNoRing | undefined {
    if (id === this.#own) return 'this-one';
    if (kind === 'no-desktop') return 'no-desktop';
    const bell = bellHere();
    const isOurs = bell && new URL(bell.service).origin === new URL(this.#serviceUrl).origin;
    if (!isOurs || !existsSync(BELL.socket)) return 'no-bell';
    return kind === 'sign-in-screen' && !bell.hasSignInScreen ? 'not-opened' : undefined;
  }
  /** The first field of what the list of accounts says of them (passwd(5)). */
  async #nameOf(account: string): Promise<string> {
    const known = this.#names.get(account);
    if (known !== undefined) return known;
    const row = await runCommand('getent', ['passwd', '--', account], AbortSignal.timeout(NAME_MS)).catch(() => '');
    const name = (row.split(':')[4]?.split(',')[0] ?? '').trim().slice(0, MAX_NAME_CHARACTERS);
    this.#names.set(account, name);
    return name;
  }
}
