import { Permission, SessionCommand } from '@porch/core';
import { z } from 'zod';
import { abilityCalls } from '../abilities/calls.ts';
import type { AnyCallOf } from '../abilities/cli-ability.ts';

/* What a command line says to the process that keeps a session open, over a private Unix socket: one JSON line each way. */
const kernelCalls = {
  status: {},
  command: { command: SessionCommand },
  ask: { permissions: z.array(Permission), waitMs: z.number() },
  giveBack: { permission: Permission },
  aside: { text: z.string() },
  follow: { afterSeq: z.number() },
  leave: {},
} as const;

export type KernelCall = AnyCallOf<typeof kernelCalls>;
export type AbilityCall = AnyCallOf<typeof abilityCalls>;
export type Call = KernelCall | AbilityCall;

const schemas = new Map(
  Object.entries({ ...kernelCalls, ...abilityCalls }).map(([name, fields]) => [
    name,
    z.strictObject({ call: z.literal(name), ...fields }),
  ]),
);
export const isAbilityCall = ({ call }: Call): boolean => Object.hasOwn(abilityCalls, call);

/** Throws what Zod throws for what is no call. */
export function readCall(line: string): Call {
  const value: unknown = JSON.parse(line);
  const { call } = z.looseObject({ call: z.enum([...schemas.keys()]) }).parse(value);
  return schemas.get(call)?.parse(value) as Call;
}

export const Answer = z.discriminatedUnion('is', [
  z.strictObject({ is: z.literal('done'), value: z.unknown() }),
  z.strictObject({ is: z.literal('refused'), code: z.string(), message: z.string() }),
  /** One of many values of a call that goes on; the last answer is one of the others. */
  z.strictObject({ is: z.literal('more'), value: z.unknown() }),
]);
export type Answer = z.infer<typeof Answer>;
