import { z } from 'zod';
import { Permission } from '../../permission/permission.ts';
import { MOST_NAMES } from '../joining/events.ts';

export const plannedCommands = [
  z.strictObject({ type: z.literal('planned/choose'), permissions: z.array(Permission).max(MOST_NAMES) }),
] as const;
