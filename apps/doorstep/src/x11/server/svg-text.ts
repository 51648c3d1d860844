export const escapeXml = (text: string): string =>
  text.replace(/[\u0000-\u001f]/g, ' ').replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** Breaks text into lines of about so many characters; a single longer word is cut. */
export function wrapText(text: string, characters: number): string[] {
  const lines: string[] = [];
  let line = '';
  for (const word of text.trim().split(/\s+/)) {
    const cut = word.length > characters ? `${word.slice(0, characters - 1)}…` : word;
    if (line && line.length + 1 + cut.length > characters) {
      lines.push(line);
      line = cut;
    } else line = line ? `${line} ${cut}` : cut;
  }
  return line ? [...lines, line] : lines;
}
