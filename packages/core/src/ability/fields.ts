import { z } from 'zod';

/* Fields that events and commands of several ideas have in common. */

export const id = z.uuid();
export const who = z.string().min(1).max(64);
/** A fact's number in its sender's journal. Facts are delivered when the line is back and are never refused. */
export const fact = z.int().min(1).optional();
export const shortText = z.string().max(60);
export const count = z.int().min(0);
export const sha256 = z.string().regex(/^[0-9a-f]{64}$/);
