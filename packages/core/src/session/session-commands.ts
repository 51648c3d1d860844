import { z } from 'zod';
import { abilityCommandSchemas, type AbilityCommand } from '../abilities/rules.ts';
import { byType } from '../by-type.ts';
import { kernelCommands, type KernelCommand } from '../kernel/commands.ts';

/** What participants may send over the live connection. */
export type SessionCommand = KernelCommand | AbilityCommand;

const schemas = byType(
  'command',
  [...kernelCommands, ...abilityCommandSchemas].map((schema) => [schema.shape.type.value as string, schema] as const),
);
export const commandTypes: readonly string[] = [...schemas.keys()];

export const SessionCommand = z.looseObject({ type: z.string() }).transform((value, context): SessionCommand => {
  const parsed = schemas.get(value.type)?.safeParse(value);
  if (parsed?.success) return parsed.data as SessionCommand;
  for (const { message, path } of parsed?.error.issues ?? [{ message: 'there is no such command', path: ['type'] }])
    context.addIssue({ code: 'custom', message, path });
  return z.NEVER;
});
