import type { z } from 'zod';
import type { KernelState } from './state.ts';

/** One row for each event of an idea: what is true after it. Total, since facts are never refused. */
export type Evolvers<Events extends readonly z.ZodObject[]> = {
  readonly [E in z.output<Events[number]> as E extends { type: infer T extends string } ? T : never]: (
    s: KernelState,
    e: E,
    atMs: number,
  ) => KernelState;
};
