/** A name that is a name on every system: no folders, no controls, no reserved ones, no more than 120 characters. */
export function safeFileName(name: string): string {
  const last = name.split(/[/\\]/).at(-1) ?? '';

  const plain = last
    .normalize('NFC')
    .replace(/[\u0000-\u001f\u007f<>:"|?*\u202a-\u202e\u2066-\u2069]/g, '_')
    .replace(/^\.+|[. ]+$/g, '')
    .trim();
  const isReserved = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i.test(plain);
  return [...(isReserved ? `_${plain}` : plain)].slice(0, 120).join('') || 'unnamed';
}
