import { initialSlices, type Slices } from '../abilities/index.ts';
import { newKernel, type KernelState } from '../kernel/state.ts';

/** One session, as its events have made it: what the kernel knows, and a slice for each ability. */
export interface SessionState extends KernelState {
  readonly slices: Slices;
}

export const newSession: SessionState = { ...newKernel, slices: initialSlices };
