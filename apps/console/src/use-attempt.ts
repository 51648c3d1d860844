import { ref } from 'vue';
import { inWords, inWordsOr } from './in-words.ts';

/**
 * What a press came to, to be said beside it: what is wrong, what was done, and that it is not over yet. `refused`: what it
 * means when the customer's side says no.
 */
export function useAttempt(refused?: (p: { readonly why: string }) => string) {
  const trouble = ref('');
  const told = ref('');
  const isBusy = ref(false);
  /** `done` is said once it is. */
  async function attempt(work: () => Promise<unknown>, done: string | (() => string) = ''): Promise<void> {
    isBusy.value = true;
    [trouble.value, told.value] = ['', ''];
    try {
      await work();
      told.value = typeof done === 'string' ? done : done();
    } catch (error) {
      trouble.value = refused ? inWordsOr(error, refused) : inWords(error);
    } finally {
      isBusy.value = false;
    }
  }
  return { trouble, told, isBusy, attempt };
}
