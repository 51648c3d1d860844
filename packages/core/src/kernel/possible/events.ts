import { z } from 'zod';
import { event, openName } from '../event-schema.ts';
import { Cannot, MOST_NAMES } from '../joining/events.ts';

/** A program that runs can do something more, or something less. */
export const possibleEvents = [
  event('possible/changed', { can: z.array(openName).max(MOST_NAMES), cannot: Cannot }),
] as const;
