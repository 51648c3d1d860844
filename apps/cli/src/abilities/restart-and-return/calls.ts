import { RestartHow } from '@porch/core';
import { z } from 'zod';

const restartId = z.uuid();
export const restartCalls = {
  restartNow: {},
  /** Under which number it is asked, and whether the desk's yes comes first. */
  wantRestart: { how: RestartHow, signsIn: z.boolean() },
  askLeaveForRestart: { restartId, how: RestartHow, reason: z.string().max(200).optional() },
  /** Resolves once the person there has said yes and it goes down. */
  restart: { restartId, how: RestartHow, signsIn: z.boolean() },
  /** Resolves once it is back, or with that it is not. */
  awaitReturn: {},
} as const;
