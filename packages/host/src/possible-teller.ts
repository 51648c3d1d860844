import type { LiveConnection } from '@porch/client';
import { allPermissions, isOver, type Permission, type WhyNot } from '@porch/core';
import type { Clock } from '@porch/wire';
import type { HostLog } from './kit.ts';

type Cannot = Readonly<Partial<Record<Permission, WhyNot>>>;

/** What was not taken is told again after this, for as long as it is so. */
const TELL_AGAIN_MS = 5_000;

const isSame = (one: Cannot, other: Cannot): boolean => allPermissions.every((p) => one[p] === other[p]);

/**
 * Says in the session when what this host can do is not what the session has of it: the program may have said something
 * else when it came in, or in the moments until it heard of changes, or before it was started again.
 */
export class PossibleTeller {
  readonly #connection: LiveConnection;
  readonly #cannot: () => Cannot;
  readonly #time: Clock;
  readonly #log: HostLog;
  /** For a program that did not say what it can when it came in, as pages do not. */
  readonly #atFirst: Cannot;
  #isTelling = false;
  #cancelAgain: (() => void) | undefined;

  constructor(connection: LiveConnection, cannot: () => Cannot, time: Clock, log: HostLog) {
    this.#connection = connection;
    this.#cannot = cannot;
    this.#time = time;
    this.#log = log;
    this.#atFirst = cannot();
  }

  follow(): void {
    const { state, participantId } = this.#connection;
    const me = state.participants[participantId];
    if (!me || state.holderId !== participantId || isOver(state)) return;
    if (this.#isTelling || this.#cancelAgain) return;
    const cannot = this.#cannot();
    if (isSame(cannot, me.can ? me.cannot : this.#atFirst)) return;
    this.#isTelling = true;
    const can = allPermissions.filter((permission) => cannot[permission] === undefined);
    this.#connection.command({ type: 'possible/tell', can, cannot }).then(
      () => {
        this.#isTelling = false;
        if (!isSame(cannot, this.#cannot())) this.follow();
      },
      (error: unknown) => {
        this.#isTelling = false;
        // Nobody loses by it meanwhile: what cannot be done is refused here, too.
        this.#log.info({ why: String(error) }, 'what can be done here could not be told');
        this.#cancelAgain ??= this.#time.after(TELL_AGAIN_MS, () => {
          this.#cancelAgain = undefined;
          this.follow();
        });
      },
    );
  }

  close(): void {
    this.#cancelAgain?.();
    this.#cancelAgain = () => undefined;
  }
}
