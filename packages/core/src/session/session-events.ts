import { z } from 'zod';
import { abilityEventSchemas, type AbilityEvent } from '../abilities/index.ts';
import { byType } from '../by-type.ts';
import { kernelEvents, type KernelEvent } from '../kernel/events.ts';

/** Everything that changes a session: the kernel's events, and those of one ability each. */
export type SessionEvent = KernelEvent | AbilityEvent;

const schemas = byType(
  'event',
  [...kernelEvents, ...abilityEventSchemas].map((schema) => [schema.shape.type.value as string, schema] as const),
);
export const eventTypes: readonly string[] = [...schemas.keys()];

/** By its type, from a table: an event whose type this release does not know is no error of its sender's. */
export const SessionEvent = z.looseObject({ type: z.string() }).transform((value, context): SessionEvent => {
  const parsed = schemas.get(value.type)?.safeParse(value);
  if (parsed?.success) return parsed.data as SessionEvent;
  for (const { message, path } of parsed?.error.issues ?? [{ message: 'there is no such event', path: ['type'] }])
    context.addIssue({ code: 'custom', message, path });
  return z.NEVER;
});

export const isKnownEvent = (type: string): boolean => schemas.has(type);
/**
 * Newer events of an ability, and of an idea of the kernel that one can go on without, are called `name/pastTense`. Whoever
 * does not know one goes on without that; whoever does not know another one stops acting.
 */
export const isAbilitysEvent = (type: string): boolean => type.includes('/');

/** The version of the shape above. A change to a shipped event raises it and adds a step to bring older ones up. */
export const EVENT_VERSION = 1;
