import { z } from 'zod';
import type { ScriptedCustomer } from './scripted-customer.ts';

const Tickets = z.array(
  z.object({
    ref: z.string(),
    requester: z.object({ address: z.string() }),
    comments: z.array(z.object({ atMs: z.number(), text: z.string() })),
  }),
);
const LOOK_MS = 700;

/** Customers read what is written into their tickets: a join link there is followed. Hands back its stop. */
export function watchTickets(
  ticketsUrl: string,
  key: string,
  customers: readonly ScriptedCustomer[],
  tell: (line: string) => void,
): () => void {
  const startedAtMs = Date.now();
  const followed = new Set<string>();
  let isLooking = false;
  const look = async () => {
    const answer = await fetch(`${ticketsUrl}/tickets`, { headers: { authorization: `Bearer ${key}` } });
    for (const ticket of Tickets.parse(await answer.json()))
      for (const comment of ticket.comments) {
        const link = /\/join\/([\w-]+)/.exec(comment.text)?.[1];
        const customer = customers.find((c) => c.character.address === ticket.requester.address);
        if (!link || !customer || comment.atMs < startedAtMs || followed.has(link) || customer.isBusy) continue;
        followed.add(link);
        tell(`  ${customer.character.name} reads ${ticket.ref} and follows the link`);
        await customer
          .join({ link })
          .catch((error: unknown) =>
            tell(`  ${customer.character.name} cannot come in: ${String((error as Error).message)}`),
          );
      }
  };
  const timer = setInterval(() => {
    if (isLooking) return;
    isLooking = true;
    look()
      .catch(() => undefined) // The ticket system may be down just now: nobody reads anything then.
      .finally(() => (isLooking = false));
  }, LOOK_MS);
  return () => clearInterval(timer);
}
