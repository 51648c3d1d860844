/** Those that decide which character another key makes. */
export const SHIFT = 0xffe1;
export const THIRD_LEVEL = 0xfe03;
export const CAPS_LOCK = 0xffe5;

/** X keysyms of the named keys of the W3C UI Events table that a technician's keyboard has. */
export const keysymOfName: Readonly<Record<string, number>> = {
  Backspace: 0xff08,
  Tab: 0xff09,
  Enter: 0xff0d,
  Escape: 0xff1b,
  Delete: 0xffff,
  Insert: 0xff63,
  Home: 0xff50,
  ArrowLeft: 0xff51,
  ArrowUp: 0xff52,
  ArrowRight: 0xff53,
  ArrowDown: 0xff54,
  PageUp: 0xff55,
  PageDown: 0xff56,
  End: 0xff57,
  PrintScreen: 0xff61,
  Pause: 0xff13,
  ContextMenu: 0xff67,
  NumLock: 0xff7f,
  ScrollLock: 0xff14,
  CapsLock: CAPS_LOCK,
  Shift: SHIFT,
  Control: 0xffe3,
  Alt: 0xffe9,
  AltGraph: THIRD_LEVEL,
  Meta: 0xffeb,
  ...Object.fromEntries(Array.from({ length: 12 }, (_, i) => [`F${i + 1}`, 0xffbe + i])),
};

/** Keysym of a character: Latin-1 stands for itself, everything else has Unicode's number with a mark (X11 protocol, appendix A). */
export function keysymOfCharacter(character: string): number {
  const point = character.codePointAt(0) ?? 0;
  if (point === 0x0a || point === 0x0d) return 0xff0d;
  if (point === 0x09) return 0xff09;
  return (point >= 0x20 && point <= 0x7e) || (point >= 0xa0 && point <= 0xff) ? point : (0x01000000 | point) >>> 0;
}
