import { abilityLevels } from '../abilities/index.ts';
import { besideEvents } from '../kernel/beside/events.ts';
import { plannedEvents } from '../kernel/planned/events.ts';
import { possibleEvents } from '../kernel/possible/events.ts';

/*
 * Every release reads more than it writes. What one that is two releases older would not know is written only once whoever
 * runs the service says that no such program is needed any longer: then the records are raised to this release's level.
 */

/** Raised by a release that has events which the release before does not know. */
export const RECORDS_LEVEL = 4;
const FIRST_LEVEL = 1;

const levels: ReadonlyMap<string, number> = new Map([
  ...abilityLevels,
  ...[...besideEvents, ...possibleEvents].map(({ shape }) => [shape.type.value as string, 2] as const),
  ...plannedEvents.map(({ shape }) => [shape.type.value as string, 3] as const),
]);

/** From which level of the records on an event is written. */
export const levelOf = (eventType: string): number => levels.get(eventType) ?? FIRST_LEVEL;
/** Events that wait for the level after this one, or a later one. */
export const waitingAt = (level: number): string[] =>
  [...levels].filter(([, least]) => least > level).map(([type]) => type);
