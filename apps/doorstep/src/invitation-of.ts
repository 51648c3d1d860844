import { readCode, readSecondNumber } from '@porch/core';
import type { DoorstepOptions } from './doorstep-options.ts';

/** A join link, or a code with the address where it counts. */
export interface Invited {
  link?: string;
  service?: string;
  code?: string;
  secondNumber?: string;
}

function secondOf({ secondNumber }: Invited): { secondNumber?: string } {
  if (secondNumber === undefined) return {};
  const digits = readSecondNumber(secondNumber);
  if (digits === undefined) throw new Error('a second number has six digits');
  return { secondNumber: digits };
}

/** Whom the person was invited by, as they or their desktop said it. Throws with words for them. */
export function invitationOf(options: Invited): Pick<DoorstepOptions, 'serviceUrl' | 'invitation'> {
  if (options.link) {
    const url = URL.canParse(options.link) ? new URL(options.link) : undefined;
    const token = url?.pathname.match(/\/join\/([\w-]+)$/)?.[1];
    if (!url || !token) throw new Error('the link is not a join link; copy it whole, from http to its end');
    return { serviceUrl: url.origin, invitation: { link: token } };
  }
  if (!options.code || !options.service) throw new Error('say --link LINK, or --service URL and --code DIGITS');
  const reading = readCode(options.code);
  if (reading.kind === 'mistyped') throw new Error('one of the digits is wrong; look at the code once more');
  if (reading.kind !== 'code') throw new Error('a code has eight digits');
  return { serviceUrl: options.service.replace(/\/$/, ''), invitation: { code: reading.digits, ...secondOf(options) } };
}
