import { clockLeft, TechnicianHandsOff } from '@porch/client';
import type { Resting } from '@porch/core';
import { defineKept } from '../cli-ability.ts';
import { handsOffCalls } from './calls.ts';

/** What `porch status` says of it: what of theirs rests, and how long still. */
export interface HandsOffNow {
  readonly isStepBackAsked: boolean;
  readonly resting: readonly { readonly what: Resting; readonly endsAtMs: number; readonly left: string }[];
}

export const keptHandsOff = defineKept({
  name: 'hands-off',
  calls: handsOffCalls,
  begin({ connection }) {
    const handsOff = new TechnicianHandsOff(connection);
    const now = (): HandsOffNow => ({
      isStepBackAsked: connection.state.slices['hands-off'].stepBackFor === connection.participantId,
      resting: handsOff.resting.map(({ what, endsAtMs }) => ({
        what,
        endsAtMs,
        left: clockLeft(endsAtMs - connection.serviceNowMs),
      })),
    });
    return { handsOff, now, status: () => ({ handsOff: now() }), close: () => handsOff.close() };
  },
  answer: {
    async stepBack({ handsOff, now }, { isAsked }) {
      await handsOff.askStepBack(isAsked);
      return now();
    },
  },
});
