/** What is each technician's, in the order in which it stands; so much of it at most. */
export function grouped<T extends { readonly technicianId: string }>(
  technicianIds: readonly string[],
  things: readonly T[],
  most: number,
): ReadonlyMap<string, T[]> {
  const groups = new Map<string, T[]>(technicianIds.map((id) => [id, []]));
  for (const thing of things) {
    const group = groups.get(thing.technicianId);
    if (group && group.length < most) group.push(thing);
  }
  return groups;
}
