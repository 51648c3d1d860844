import { z } from 'zod';
import { event, openName } from '../event-schema.ts';
import { MOST_NAMES } from '../joining/events.ts';

/** What the lead means to ask once the customer is in; an empty list takes it back. */
export const plannedEvents = [event('planned/chosen', { permissions: z.array(openName).max(MOST_NAMES) })] as const;
