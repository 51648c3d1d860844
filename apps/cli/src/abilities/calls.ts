import { filesCalls } from './files/calls.ts';
import { inputCalls } from './input/calls.ts';
import { pictureCalls } from './picture/calls.ts';
import { screenshotCalls } from './screenshot/calls.ts';
import { standingCalls } from './standing/calls.ts';

/** What abilities' verbs ask of the keeper. */
export const abilityCalls = {
  ...pictureCalls,
  ...inputCalls,
  ...filesCalls,
  ...standingCalls,
  ...screenshotCalls,
} as const;
