const MOST_CHARS = 120;
/** Systems count bytes, and a number or two may be added. */
const MOST_BYTES = 200;
const MOST_ENDING_CHARS = 12;

/** A name that is a name on every system: no folders, no controls, no reserved ones, no more than 120 characters. */
export function safeFileName(name: string): string {
  const last = name.split(/[/\\]/).at(-1) ?? '';

  const plain = last
    .normalize('NFC')
    .replace(/[\u0000-\u001f\u007f<>:"|?*\u202a-\u202e\u2066-\u2069]/g, '_')
    .replace(/^\.+|[. ]+$/g, '')
    .trim();
  const isReserved = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i.test(plain);
  return shortened(isReserved ? `_${plain}` : plain) || 'unnamed';
}

/** Cut before its ending, which says what it is. */
function shortened(name: string): string {
  const ending = /\.[^.]+$/.exec(name)?.[0] ?? '';
  const kept = [...ending].length <= MOST_ENDING_CHARS ? ending : '';
  const stem = [...name.slice(0, name.length - kept.length)].slice(0, MOST_CHARS - [...kept].length);
  const bytes = (text: string) => new TextEncoder().encode(text).length;
  while (stem.length && bytes(stem.join('') + kept) > MOST_BYTES) stem.pop();
  return stem.join('').replace(/[. ]+$/, '') + kept;
}
