import type { EarlierSession, KnowledgeNoteView } from '@porch/wire';
import { inBackground } from '@porch/client';
import { computed, onMounted, shallowRef, watch } from 'vue';
import { useDesk } from '../../desk.ts';
import { useAttempt } from '../../use-attempt.ts';
import type { TechnicianSession } from './technician-session.ts';

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
  /** Whose session it is, and what it is about: with anything else of these there is more to look up. */
  const about = () => {
    const { ticketRef, customerName, identity, participants } = session.state.value;
    return [ticketRef, customerName, identity, Object.keys(participants).length].join('\n');
  };
  onMounted(() => inBackground('looking up what is known', look()));
  watch(about, () => inBackground('looking up what is known', look()));
  const hasFound = computed(() => Boolean(earlier.value?.length) || Boolean(notes.value?.length));
  return { earlier, notes, trouble, look, hasFound };
}
export type LookUp = ReturnType<typeof useLookUp>;
