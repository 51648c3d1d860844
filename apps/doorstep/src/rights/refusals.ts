import { RightsRefused } from '@porch/host';

/** What became of asking for a password: somebody did not want to, it was wrong as often as it may be, or nobody may. */
export type NotRaised = 'not-typed' | 'wrong' | 'nobody';

export function refusalOf(outcome: NotRaised): RightsRefused {
  if (outcome === 'not-typed') return new RightsRefused('no password was typed', 'not-typed');
  if (outcome === 'wrong') return new RightsRefused('the password was wrong three times', 'wrong-password');
  return new RightsRefused('nobody can become administrator here');
}
