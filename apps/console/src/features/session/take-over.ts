import { askedAtHandover, isTakingOver, leadOf, rulesOf, type Permission } from '@porch/core';
import { AppError } from '@porch/wire';
import { watch } from 'vue';
import type { TechnicianSession } from './technician-session.ts';

/** A colleague who comes in by a handover asks for what the first technician had, in one prompt; once. */
export function useTakingOver(
  session: TechnicianSession,
  attempt: (work: () => Promise<unknown>) => Promise<void>,
): void {
  let hasAsked = false;
  watch(
    () => [session.status.value, session.state.value.handover?.stage] as const,
    ([status, stage]) => {
      const { state } = session;
      const { handover, standings, participants } = state.value;
      const me = participants[session.connection.participantId];
      const isMine = me !== undefined && isTakingOver(state.value, me.technicianId);
      if (status !== 'live' || stage !== 'accepted' || !handover || !isMine || hasAsked) return undefined;
      if (leadOf(state.value)?.id === me.id) return undefined;
      hasAsked = true;
      const held = Object.entries(standings[handover.fromParticipantId] ?? {})
        .filter(([, s]) => s.name === 'allowed')
        .map(([p]) => p as Permission);
      return attempt(() => askForAll(session, askedAtHandover(held)));
    },
    { immediate: true },
  );
}

/** Where words must be compared before mouse and keyboard, a colleague asks for those later. */
async function askForAll(session: TechnicianSession, held: readonly Permission[]): Promise<void> {
  await session.ask(...held).catch((error: unknown) => {
    if (!(error instanceof AppError) || error.code !== 'WORDS_NOT_COMPARED') throw error;
    return session.ask(...held.filter((permission) => !rulesOf(permission).isHandsOn));
  });
}
