import type { XDesktop } from '@porch/demo';
import { until } from './until.ts';

/** Which desktop of a stand-in computer is in front, as somebody there switches. */
export class InFront {
  readonly #computer: NonNullable<XDesktop['computer']>;

  constructor({ computer }: XDesktop) {
    if (!computer) throw new Error('a desktop without its computer');
    this.#computer = computer;
  }

  /** To the sign-in screen, as by the entry of a desktop's menu; who was there stays signed in behind it. */
  async signInScreen(): Promise<void> {
    const seat = 'XDG_SEAT_PATH=/org/freedesktop/DisplayManager/Seat0';
    await this.#computer.read('env', seat, 'dm-tool', 'switch-to-greeter');
  }
  /** To a desktop or sign-in screen that is there already, by the account that runs it. */
  async desktopOf(account: string): Promise<void> {
    const id = await until(`a desktop of ${account}`, async () => {
      const rows = (await this.#computer.read('loginctl', 'list-sessions', '--no-legend')).trim().split('\n');
      return rows.map((row) => row.trim().split(/ +/)).find(([, , name]) => name === account)?.[0];
    });
    await this.#computer.read('loginctl', 'activate', id);
  }
}
