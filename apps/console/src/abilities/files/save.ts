const LINK_MS = 60_000;

/** Hands bytes to the browser's downloads, which read them in the minute that follows; `afterwards` is called then. */
export function saveAs(name: string, blob: Blob, afterwards: () => void = () => undefined): void {
  const url = URL.createObjectURL(blob);
  Object.assign(document.createElement('a'), { href: url, download: name }).click();
  setTimeout(() => {
    URL.revokeObjectURL(url);
    afterwards();
  }, LINK_MS);
}
