type Step<S, From, E> = (state: From, event: E) => S;

/** One row per state, one cell per event that state accepts. An absent cell is an illegal move. */
export type TransitionTable<S extends { name: string }, E extends { type: string }> = {
  readonly [N in S['name']]: {
    readonly [T in E['type']]?: Step<S, Extract<S, { name: N }>, Extract<E, { type: T }>>;
  };
};

/** The result returns the next state, the same object when nothing changes, or undefined for an illegal move. */
export function transitionBy<S extends { name: string }, E extends { type: string }>(table: TransitionTable<S, E>) {
  return (state: S, event: E): S | undefined => {
    // The row fits the state and the cell fits the event; TypeScript cannot follow that, hence the cast.
    const row = table[state.name as S['name']] as Partial<Record<string, Step<S, S, E>>>;
    return Object.hasOwn(row, event.type) ? row[event.type]?.(state, event) : undefined;
  };
}
