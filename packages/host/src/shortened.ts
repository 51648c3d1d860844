/** Of a title that stands in a sentence. */
const MOST_TITLE_LETTERS = 40;

/** The title of a window, which may be as long as its program likes. */
export const shortened = (title: string): string => {
  const letters = [...title];
  return letters.length > MOST_TITLE_LETTERS ? `${letters.slice(0, MOST_TITLE_LETTERS - 1).join('')}…` : title;
};
