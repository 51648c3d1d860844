/*
 * Keysyms that are older than Unicode: a set of characters in the upper byte, a place in it in the lower one (X11
 * protocol, appendix A). Layouts still name their letters by them; everything newer has Unicode's number with a mark.
 */

const UNICODE_MARK = 0x01000000;
/** The sets that equal a code table everybody has. */
const tables: readonly (readonly [set: number, encoding: string])[] = [
  [0x01, 'iso-8859-2'],
  [0x02, 'iso-8859-3'],
  [0x03, 'iso-8859-4'],
  [0x05, 'iso-8859-6'],
  [0x0c, 'iso-8859-8'],
];
/** The first letter of each set's own order, and the letters from there on. */
const runs: readonly (readonly [first: number, letters: string])[] = [
  [0x06a1, 'ђѓёєѕіїјљњћќґўџ№ЂЃЁЄЅІЇЈЉЊЋЌҐЎЏ'],
  [0x06c0, 'юабцдефгхийклмнопярстужвьызшэщчъЮАБЦДЕФГХИЙКЛМНОПЯРСТУЖВЬЫЗШЭЩЧЪ'],
  [0x07c1, 'ΑΒΓΔΕΖΗΘΙΚΛΜΝΞΟΠΡΣ'],
  [0x07d4, 'ΤΥΦΧΨΩ'],
  [0x07e1, 'αβγδεζηθικλμνξοπρσςτυφχψω'],
];

function unicodeOfLegacy(): ReadonlyMap<number, number> {
  const found = new Map<number, number>();
  for (const [set, encoding] of tables) {
    const decoder = new TextDecoder(encoding);
    for (let place = 0xa0; place <= 0xff; place++) {
      const point = decoder.decode(Uint8Array.of(place)).codePointAt(0);
      if (point !== undefined && point !== 0xfffd) found.set((set << 8) | place, point);
    }
  }
  for (const [first, letters] of runs)
    [...letters].forEach((letter, i) => found.set(first + i, letter.codePointAt(0) ?? 0));
  found.set(0x13bc, 0x152).set(0x13bd, 0x153).set(0x13be, 0x178).set(0x20ac, 0x20ac);
  return found;
}
let known: ReadonlyMap<number, number> | undefined;

/** The keysym that means the same character in Unicode's numbers; any other stays what it is. */
export function modernKeysym(keysym: number): number {
  const point = (known ??= unicodeOfLegacy()).get(keysym);
  if (point === undefined) return keysym;
  return point <= 0xff ? point : (UNICODE_MARK | point) >>> 0;
}
