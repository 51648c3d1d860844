import { z } from 'zod';
import { Cannot, MOST_NAMES } from '../joining/events.ts';
import { openName } from '../event-schema.ts';

export const possibleCommands = [
  /** What the consent holder's program can do is not what it said when it came in. */
  z.strictObject({ type: z.literal('possible/tell'), can: z.array(openName).max(MOST_NAMES), cannot: Cannot }),
] as const;
