import { z } from 'zod';

type Typed = { readonly shape: { readonly type: z.ZodLiteral<string> } };
export const typesOf = (union: { readonly options: readonly Typed[] }): ReadonlySet<string> =>
  new Set(union.options.map(({ shape }) => shape.type.value));

/** Whether it is a message, of a type that a later release may know. */
export const isOfLaterType = (value: unknown, known: ReadonlySet<string>): boolean => {
  const said = z.object({ type: z.string().max(40) }).safeParse(value);
  return said.success && !known.has(said.data.type);
};
