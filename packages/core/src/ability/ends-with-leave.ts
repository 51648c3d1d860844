interface Theirs {
  readonly byId: string;
}

/**
 * For an ability whose slice is what is under way at the customer's computer, each for one participant: it is over as soon as
 * its permission, whose it is, or the computer is gone. How it ended the computer says a moment later, if it still can. `over`
 * changes what is under way, and leaves all else as it is.
 */
export function endsWithLeave<One extends Theirs>(permission: string, over: (one: One) => One) {
  type Slice = Readonly<Record<string, One>>;
  const end = (slice: Slice, isTheirs: (one: One) => boolean): Slice =>
    Object.fromEntries(Object.entries(slice).map(([id, one]) => [id, isTheirs(one) ? over(one) : one]));
  return {
    fell: (slice: Slice, which: string, participantId: string): Slice =>
      which === permission ? end(slice, ({ byId }) => byId === participantId) : slice,
    left: (slice: Slice, participantId: string, wasHolder: boolean): Slice =>
      end(slice, ({ byId }) => wasHolder || byId === participantId),
    ended: (slice: Slice): Slice => end(slice, () => true),
  };
}
