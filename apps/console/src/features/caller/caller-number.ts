/** The number that a page was opened for; it stands in the state of the browser's history and not in the address. */
export function callerNumber(): string {
  const { telephone } = (history.state ?? {}) as { telephone?: unknown };
  return typeof telephone === 'string' ? telephone.slice(0, 40) : '';
}
