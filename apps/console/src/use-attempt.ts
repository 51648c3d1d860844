import { ref } from 'vue';
import { inWords } from './in-words.ts';

/** What a press came to, to be said beside it: what is wrong, what was done, and that it is not over yet. */
export function useAttempt() {
  const trouble = ref('');
  const told = ref('');
  const isBusy = ref(false);
  /** `done` is said once it is. */
  async function attempt(work: () => Promise<unknown>, done = ''): Promise<void> {
    isBusy.value = true;
    [trouble.value, told.value] = ['', ''];
    try {
      await work();
      told.value = done;
    } catch (error) {
      trouble.value = inWords(error);
    } finally {
      isBusy.value = false;
    }
  }
  return { trouble, told, isBusy, attempt };
}
