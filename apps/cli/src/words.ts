import { languageOf, speechOf } from '@porch/words';
import { console as consoleBooks } from '@porch/words/console';
import { ledger } from '@porch/words/ledger';
import { refusals as refusalBooks } from '@porch/words/refusals';
import { terminal } from '@porch/words/terminal';

/* What is told to whoever sits at the terminal, in the language of their account. What scripts read is no language's. */
const language = languageOf(process.env);

export const { results, wrong } = terminal[language];
/** What the desk calls states, outcomes and reasons: the same words as in the console. */
export const desk = consoleBooks[language];
export const book = ledger[language];
export const refusals = refusalBooks[language].codes;
export const speech = speechOf(language);

/** A word by its key; one that only a newer service knows stays as that says it. */
export const named = (words: Readonly<Record<string, unknown>>, key: string): string => {
  const word = Object.hasOwn(words, key) ? words[key] : undefined;
  return typeof word === 'string' ? word : key;
};
