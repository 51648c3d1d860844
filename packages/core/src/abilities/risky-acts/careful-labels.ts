import { isSameLabel } from '../../device/device-label.ts';
import { isOpenAt, readOfficeHours, type OfficeHours } from '../../queue/office-hours.ts';

/** What a label of a device means for acts after which something may no longer work. */
export interface CarefulLabel {
  readonly label: string;
  /** Nobody does it from the desk. */
  readonly isNever: boolean;
  /** Somebody else of the desk says yes first. */
  readonly needsSecond: boolean;
  /** Only then; at any time where there are none. */
  readonly hours: OfficeHours;
  /** Outside of those hours with a reason, which a lead is told at once and looks at. */
  readonly mayOverride: boolean;
}

const words = { never: 'isNever', 'second person': 'needsSecond', override: 'mayOverride' } as const;
const EXAMPLE = '“till: second person + Mon-Sun 02:00-05:00 + override; clinical: never”';

function readRow(part: string): CarefulLabel {
  const at = part.indexOf(':');
  const label = part.slice(0, at).trim();
  if (at < 0 || !label) throw new Error(`“${part}” is not like ${EXAMPLE}`);
  let row: CarefulLabel = { label, isNever: false, needsSecond: false, hours: [], mayOverride: false };
  for (const rule of part.slice(at + 1).split('+')) {
    const text = rule.trim();
    if (Object.hasOwn(words, text)) row = { ...row, [words[text as keyof typeof words]]: true };
    else row = { ...row, hours: [...row.hours, ...readHours(text)] };
  }
  if (row.mayOverride && !row.hours.length)
    throw new Error(`“${label}” has no hours that an override could be outside of`);
  return row;
}
function readHours(text: string): OfficeHours {
  const hours = readOfficeHours(text);
  if (!hours.length) throw new Error(`“${text}” is not like ${EXAMPLE}`);
  return hours;
}

/** Reads “till: second person + Mon-Sun 02:00-05:00 + override; clinical: never”. Throws with what is wrong. */
export const readCarefulLabels = (text: string): readonly CarefulLabel[] =>
  text
    .split(';')
    .map((part) => part.trim())
    .filter(Boolean)
    .map(readRow);

export const ruleOfLabel = <R extends { readonly label: string }>(
  rules: readonly R[],
  label: string | undefined,
): R | undefined => (label === undefined ? undefined : rules.find((one) => isSameLabel(one.label, label)));

/** Whether it is outside of the hours in which such an act is done on a device. */
export const isOutsideHours = ({ hours }: CarefulLabel, nowMs: number, timeZone: string): boolean =>
  !isOpenAt(hours, nowMs, timeZone);
