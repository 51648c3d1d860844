import type { EarlierSession, KnowledgeNoteView } from '@porch/wire';
import { inBackground } from '@porch/client';
import { computed, onMounted, shallowRef, watch } from 'vue';
import { useDesk } from '../../desk.ts';
import { useAttempt } from '../../use-attempt.ts';
import type { TechnicianSession } from './technician-session.ts';

/** What says whose session it is, and what it is about: with another of these there is more to look up. */
const telling = ['sessionPrepared', 'customerExpected', 'customerIntroduced', 'participantJoined', 'ticketAttached'];

/** What is known before anything is touched, looked up without being asked for: sessions of before, and knowledge notes. */
export function useLookUp(session: TechnicianSession) {
  const { rest } = useDesk();
  const earlier = shallowRef<readonly EarlierSession[]>();
  const notes = shallowRef<readonly KnowledgeNoteView[]>();
  const { trouble, attempt } = useAttempt();
  const look = () =>
    attempt(async () => {
      [earlier.value, notes.value] = await Promise.all([
        rest.earlierSessions(session.id),
        rest.sessionKnowledge(session.id),
      ]);
    });
  const told = computed(() => {
    void session.told.value;
    return session.connection.entries.filter(({ event }) => telling.includes(event.type)).length;
  });
  onMounted(() => inBackground('looking up what is known', look()));
  watch(told, () => inBackground('looking up what is known', look()));
  const hasFound = computed(() => Boolean(earlier.value?.length) || Boolean(notes.value?.length));
  return { earlier, notes, trouble, look, hasFound };
}
export type LookUp = ReturnType<typeof useLookUp>;
