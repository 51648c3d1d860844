/**
 * Somebody else's words as they go into a ticket or a mail: one line, of bounded length, without controls or anything that
 * turns what follows around. What a ticket system would read as markup stays text.
 */
export function plainText(words: string, mostCharacters: number): string {
  const plain = words
    .replace(/[\u0000-\u001f\u007f-\u009f\u200b-\u200f\u2028-\u202e\u2060-\u2069\ufeff]+/g, ' ')
    .replace(/[<>&]/g, (c) => ({ '<': '‹', '>': '›', '&': '＆' })[c] ?? c)
    .trim();
  return [...plain].slice(0, mostCharacters).join('');
}
