import type { z } from 'zod';
import { chatCommands } from './chat/commands.ts';
import { consentCommands } from './consent/commands.ts';
import { endingCommands } from './ending/commands.ts';
import { handoverCommands } from './handover/commands.ts';
import { joiningCommands } from './joining/commands.ts';
import { besideCommands } from './beside/commands.ts';
import { plannedCommands } from './planned/commands.ts';
import { possibleCommands } from './possible/commands.ts';

/** What participants may send whatever the session can do. Who may send which: `who-may.ts`. */
export const kernelCommands = [
  ...joiningCommands,
  ...besideCommands,
  ...plannedCommands,
  ...possibleCommands,
  ...consentCommands,
  ...chatCommands,
  ...handoverCommands,
  ...endingCommands,
] as const;
export type KernelCommand = z.output<(typeof kernelCommands)[number]>;
export type KernelCommandOf<T extends KernelCommand['type']> = Extract<KernelCommand, { type: T }>;
