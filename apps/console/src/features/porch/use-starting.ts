import { useRouter } from 'vue-router';
import { useDesk } from '../../desk.ts';
import { useAttempt } from '../../use-attempt.ts';

/** What a session may start from; nothing: a code. */
export interface StartFrom {
  readonly ticketRef?: string;
  readonly queueEntryId?: string;
  readonly deviceId?: string;
}

/** Starts a session and goes to it; what is wrong is said where it was pressed. */
export function useStarting() {
  const { rest } = useDesk();
  const router = useRouter();
  const { trouble, isBusy, attempt } = useAttempt();
  const start = (from: StartFrom): Promise<void> =>
    attempt(async () => {
      const { session } = await rest.start(from);
      await router.push(`/session/${session.id}`);
    });
  return { trouble, isBusy, attempt, start };
}
