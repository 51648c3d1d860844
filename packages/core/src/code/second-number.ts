/** How many digits stand beside a code for when the code alone is not enough. */
export const SECOND_NUMBER_DIGITS = 6;

/** The digits of what somebody typed, however it is grouped; undefined when it is no second number. */
export function readSecondNumber(typed: string): string | undefined {
  const digits = typed.replace(/[\s.-]/g, '');
  return digits.length === SECOND_NUMBER_DIGITS && /^\d+$/.test(digits) ? digits : undefined;
}

/** In two groups, as it is read aloud. */
export const formatSecondNumber = (digits: string): string => `${digits.slice(0, 3)} ${digits.slice(3)}`;
