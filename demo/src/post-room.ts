import { z } from 'zod';
import { customers as people } from './marrowick.ts';
import type { ScriptedCustomer } from './scripted-customer.ts';

const Tickets = z.array(
  z.object({
    ref: z.string(),
    requester: z.object({ address: z.string() }),
    comments: z.array(z.object({ atMs: z.number(), text: z.string() })),
  }),
);
const Messages = z.array(
  z.object({
    to: z.string(),
    atMs: z.number(),
    text: z.string(),
    attachments: z.array(z.object({ type: z.string() })).default([]),
  }),
);
const LOOK_MS = 700;

interface Read {
  /** The mail address of who reads it. */
  readonly address: string;
  readonly what: string;
  readonly atMs: number;
  readonly text: string;
}
export interface PostRoomOptions {
  readonly ticketsUrl: string;
  readonly ticketsKey: string;
  readonly postUrl: string;
  readonly customers: readonly ScriptedCustomer[];
  tell(line: string): void;
}

/** Customers read their tickets, their mail and their telephones: a join link there is followed. Hands back its stop. */
export function watchPost({ ticketsUrl, ticketsKey, postUrl, customers, tell }: PostRoomOptions): () => void {
  const startedAtMs = Date.now();
  const followed = new Set<string>();
  let isLooking = false;
  const fetched = async (url: string, headers: Record<string, string> = {}): Promise<unknown> =>
    (await fetch(url, { headers })).json();
  const everything = async (): Promise<Read[]> => [
    ...Tickets.parse(await fetched(`${ticketsUrl}/tickets`, { authorization: `Bearer ${ticketsKey}` })).flatMap((t) =>
      t.comments.map((c) => ({ address: t.requester.address, what: t.ref, ...c })),
    ),
    // A booking is for later: nobody follows its link at once.
    ...Messages.parse(await fetched(`${postUrl}/mails`))
      .filter((m) => !m.attachments.some((a) => a.type === 'text/calendar'))
      .map((m) => ({ ...m, address: m.to, what: 'a mail' })),
    ...Messages.parse(await fetched(`${postUrl}/texts`)).map((m) => ({
      ...m,
      address: people.find((p) => p.telephone.replace(/\D/g, '') === m.to)?.address ?? '',
      what: 'a text message',
    })),
  ];
  const look = async () => {
    for (const { address, what, atMs, text } of await everything()) {
      const link = /\/join\/([\w-]+)/.exec(text)?.[1];
      const customer = customers.find((c) => c.character.address === address);
      if (!link || !customer || atMs < startedAtMs || followed.has(link) || !customer.isFree) continue;
      followed.add(link);
      tell(`  ${customer.character.name} reads ${what} and follows the link`);
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
