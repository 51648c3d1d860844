/** A table by name or type. Throws, at the start of every program, when two have the same. */
export function byType<T>(what: string, rows: readonly (readonly [string, T])[]): ReadonlyMap<string, T> {
  const table = new Map<string, T>();
  for (const [type, value] of rows) {
    if (table.has(type)) throw new Error(`there are two of the ${what} “${type}”`);
    table.set(type, value);
  }
  return table;
}
