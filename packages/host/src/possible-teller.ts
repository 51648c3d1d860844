import type { LiveConnection } from '@porch/client';
import { allPermissions, isOver, type Permission, type WhyNot } from '@porch/core';
import type { HostLog } from './kit.ts';

type Cannot = Readonly<Partial<Record<Permission, WhyNot>>>;

/** Says in the session when what this host can do is not what it said when it came in. */
export class PossibleTeller {
  readonly #connection: LiveConnection;
  readonly #cannot: () => Cannot;
  readonly #log: HostLog;
  #told: string;

  constructor(connection: LiveConnection, cannot: () => Cannot, log: HostLog) {
    this.#connection = connection;
    this.#cannot = cannot;
    this.#log = log;
    this.#told = JSON.stringify(cannot());
  }

  follow(): void {
    const { state, participantId } = this.#connection;
    if (state.holderId !== participantId || isOver(state)) return;
    const cannot = this.#cannot();
    const key = JSON.stringify(cannot);
    if (key === this.#told) return;
    this.#told = key;
    const can = allPermissions.filter((permission) => cannot[permission] === undefined);
    this.#connection.command({ type: 'possible/tell', can, cannot }).catch((error: unknown) =>
      // Nobody loses by it: what cannot be done is refused here, too.
      this.#log.info({ why: String(error) }, 'what can be done here could not be told'),
    );
  }
}
