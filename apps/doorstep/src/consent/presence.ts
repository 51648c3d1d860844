import type { LiveConnection } from '@porch/client';
import { isCustomerRole } from '@porch/core';
import type { Desktop } from '../desktop/desktop.ts';
import type { ConsentHolder } from './consent-holder.ts';

const LOOK_MS = 500;

/**
 * Whether anybody is at the computer: whoever was there gives signs, with their own mouse or keyboard, in the chat, or by
 * answering. Without any for a while nobody works here, unless that was allowed.
 */
export class Presence {
  readonly #offs: (() => void)[];
  readonly #timer: ReturnType<typeof setInterval>;
  #signAtMs = performance.now();
  #isAway = false;

  constructor(
    connection: LiveConnection,
    desktop: Pick<Desktop, 'onLocalInput'>,
    holder: Pick<ConsentHolder, 'report'>,
    awayAfterMs: number,
    onChanged: () => void,
  ) {
    const tell = (isAway: boolean) => {
      this.#isAway = isAway;
      holder.report((fact) => ({ type: 'setAway', isAway, fact }));
      onChanged();
    };
    const sign = () => {
      this.#signAtMs = performance.now();
      if (this.#isAway) tell(false);
    };
    this.#offs = [
      desktop.onLocalInput(sign),
      connection.on('entry', ({ event, atMs }) => {
        const role = connection.state.participants[event.by]?.role;
        // What was said before this program came is no sign of now.
        if (role && isCustomerRole(role) && event.type === 'chatSent' && connection.serviceNowMs - atMs < awayAfterMs)
          sign();
      }),
    ];
    this.#timer = setInterval(() => {
      if (!this.#isAway && performance.now() - this.#signAtMs >= awayAfterMs) tell(true);
    }, LOOK_MS);
  }

  get isAway(): boolean {
    return this.#isAway;
  }

  close(): void {
    clearInterval(this.#timer);
    this.#offs.forEach((off) => off());
  }
}
