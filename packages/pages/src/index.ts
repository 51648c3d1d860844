import { computed, h, shallowRef, type ComputedRef, type FunctionalComponent } from 'vue';
import { firstSpoken, languages, languageTags, speechOf, type Language, type Piece, type Speech } from '@porch/words';

/* What all pages need: books in the language that is spoken, and sentences with pieces drawn in their own way. */

/** A sentence: a slot for each tag, plain text for the rest. */
export const Said: FunctionalComponent<{ of: readonly Piece[] }> = ({ of }, { slots }) =>
  of.map(({ tag, text }) => (tag && slots[tag] ? slots[tag]({ text }) : text));
Said.props = ['of'];

/** What has more lines than this is not read at one glance. */
const MOST_LINES = 3;
const foldedStyle = { display: 'inline-block', verticalAlign: 'top', maxWidth: '100%' };
const printedStyle = { margin: '0.2rem 0', fontSize: '0.85em', whiteSpace: 'pre-wrap', overflowWrap: 'anywhere' };
/** A sentence of the ledger. One with many lines, such as what a program printed, folds into its first until it is opened. */
export const Folded: FunctionalComponent<{ text: string }> = ({ text }) => {
  const [first = '', ...rest] = text.split('\n');
  return rest.length < MOST_LINES
    ? text
    : h('details', { style: foldedStyle }, [h('summary', first), h('pre', { style: printedStyle }, rest.join('\n'))]);
};
Folded.props = ['text'];

type Loaders = Readonly<Record<string, (language: Language) => Promise<unknown>>>;
type BooksOf<L extends Loaders> = { readonly [K in keyof L]: Awaited<ReturnType<L[K]>> };
type Spoken<L extends Loaders> = BooksOf<L> & { readonly language: Language; readonly speech: Speech };

export interface SpokenBooks<L extends Loaders> {
  /** Throws before the first words have come. */
  readonly spoken: ComputedRef<Spoken<L>>;
  /** Resolves when the words have come; the last who asks is obeyed. `isChosen`: by the person, so that it stays. */
  speak(language: Language, isChosen: boolean): Promise<void>;
  /** What was chosen before, else what the browser speaks. */
  firstLanguage(): Language;
  hasChosenLanguage(): boolean;
}

/** Books of one page; one language is loaded at a time. */
export function spokenBooks<const L extends Loaders>(loaders: L, keptUnder: string): SpokenBooks<L> {
  const now = shallowRef<Spoken<L>>();
  let asked = 0;
  return {
    spoken: computed(() => {
      if (!now.value) throw new Error('the words are asked for before they have come');
      return now.value;
    }),
    async speak(language, isChosen) {
      if (isChosen) localStorage.setItem(keptUnder, language);
      const mine = ++asked;
      const books = await Promise.all(
        Object.entries(loaders).map(async ([name, load]) => [name, await load(language)] as const),
      );
      if (mine !== asked) return;
      const speech = speechOf(language);
      now.value = { ...(Object.fromEntries(books) as BooksOf<L>), language, speech };
      document.documentElement.lang = languageTags[language];
    },
    firstLanguage: () =>
      languages.find((language) => language === localStorage.getItem(keptUnder)) ?? firstSpoken(navigator.languages),
    hasChosenLanguage: () => localStorage.getItem(keptUnder) !== null,
  };
}

/** Shows a page once its words are there; without any words, says so in each language. */
export function whenSpoken(
  { speak, firstLanguage }: Pick<SpokenBooks<Loaders>, 'speak' | 'firstLanguage'>,
  show: () => void,
): void {
  speak(firstLanguage(), false)
    .then(show)
    .catch(() => {
      // What went wrong stands in the browser's own log; here is what can still be done.
      document.body.textContent =
        'Please load this page again. · Last inn siden på nytt. · Bitte laden Sie die Seite neu.';
    });
}
