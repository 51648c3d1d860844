/** Text files that somebody picked. */
export const textsOf = (files: FileList | null): Promise<{ name: string; text: string }[]> =>
  Promise.all([...(files ?? [])].map(async (file) => ({ name: file.name, text: await file.text() })));

/** A name for a file, from a title. */
export const nameFrom = (title: string): string =>
  title
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 80);
