import type { PersonAtDesk, XDesktop } from '@porch/demo';
import type { House } from './house.ts';
import type { ProgramResult } from './run-program.ts';
import { until } from './until.ts';

/** Pim Aldersey at a terminal, in a session with Bettina Crole, whose Doorstep runs on this desktop. */
export async function atATerminal(
  house: House,
  desktop: XDesktop,
  env: NodeJS.ProcessEnv = {},
  /** They come by the link in it, and are known by that. */
  ticketRef?: string,
): Promise<{ porch(...args: string[]): Promise<ProgramResult>; readonly person: PersonAtDesk }> {
  const porch = (...args: string[]) => house.porch('pim', args, 'harbour-lamp-41', env);
  await porch('sign-in', '--service', house.url, '--email', 'pim.aldersey@marrowick.example', '--password-stdin');
  const started = await porch('start', '--json', ...(ticketRef ? [ticketRef] : []));
  const known = ticketRef ? await porch('invite', 'ticket', '--json') : started;
  const { link } = JSON.parse(known.out) as { link: string };
  const customer = await house.customer({ link: link.split('/').at(-1) ?? '' });
  await customer.live.command({ type: 'introduceCustomer', name: 'Bettina Crole', address: '' });
  await customer.live.command({ type: 'answerCall', answer: 'i-called' });
  await customer.live.command({ type: 'acceptSession', noticeVersion: '1' });
  const own = (await customer.rest.door()).doorstepLink.split('/').at(-1) ?? '';
  const { person } = await house.withDoorstep(own, { desktop });
  await until('Doorstep', async () => /"isDoorstepThere": ?true/.test((await porch('status', '--json')).out));
  return { porch, person };
}
