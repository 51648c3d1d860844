import { loadConsoleWords } from '@porch/words/console/lazily';
import { loadLedgerWords } from '@porch/words/ledger/lazily';
import { loadRefusalsWords } from '@porch/words/refusals/lazily';
import { spokenBooks } from '@porch/pages';
import { computed } from 'vue';

const books = spokenBooks(
  { words: loadConsoleWords, ledger: loadLedgerWords, refusals: loadRefusalsWords },
  'porch-console-language',
);
export const { speak, firstLanguage } = books;

/** What the console says, in the language that is spoken now. */
export const w = computed(() => books.spoken.value.words);
/** What ledgers say, and what permissions are called. */
export const ledger = computed(() => books.spoken.value.ledger);
/** What codes of refusals mean. */
export const refusals = computed(() => books.spoken.value.refusals.codes);
/** Numbers, lists and moments. */
export const speech = computed(() => books.spoken.value.speech);
export const language = computed(() => books.spoken.value.language);

/** Why something happened, as a program said it, in the reader's words; what a person wrote stays as it is. */
export function reasonInWords(why: string): string {
  const reasons: Readonly<Record<string, string>> = ledger.value.kernel.reasons;
  return (Object.hasOwn(reasons, why) ? reasons[why] : undefined) ?? why;
}
