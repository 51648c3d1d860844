import { z } from 'zod';
import { who } from '../ability/fields.ts';

/**
 * The shape of one event. Fields that a later release added are kept as they came, though nothing here reads them: hence
 * loose when it is parsed, and strict for whoever writes one.
 */
export const event = <const T extends string, const S extends z.ZodRawShape>(type: T, shape: S) => {
  const fields = { type: z.literal(type), by: who, ...shape };
  return z.looseObject(fields) as unknown as z.ZodObject<typeof fields, z.core.$strict>;
};

/** A name that a later release may have added to: read as it came. */
export const openName = z.string().min(1).max(40);
