import type { RestClient } from '@porch/client';
import { failure, House, until } from '@porch/testkit';
import { applyPorchChange, PorchChange, PorchView } from '@porch/wire';
import { isDeepStrictEqual } from 'node:util';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* The porch as it changes, against the porch as it is: whoever heard every change knows the same. */
let house: House;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
});
afterAll(() => house.close());

/** One console that follows the porch, as the pages do. */
class Follower {
  porch: PorchView | undefined;
  events: string[] = [];
  isOver = false;
  readonly #away = new AbortController();

  async follow(rest: RestClient, path = '/api/porch/changes'): Promise<this> {
    const answer = await fetch(house.url + path, {
      headers: { authorization: `Bearer ${rest.token ?? ''}` },
      signal: this.#away.signal,
    });
    expect(answer.status).toBe(200);
    void this.#read(answer).then(
      () => (this.isOver = true),
      () => (this.isOver = true),
    );
    return this;
  }
  leave(): void {
    this.#away.abort();
  }

  async #read(answer: Response): Promise<void> {
    let text = '';
    for await (const part of answer.body as unknown as AsyncIterable<Uint8Array>) {
      text += Buffer.from(part).toString('utf8');
      for (let end = text.indexOf('\n\n'); end >= 0; end = text.indexOf('\n\n')) {
        this.#take(text.slice(0, end));
        text = text.slice(end + 2);
      }
    }
  }
  #take(message: string): void {
    const [, event, data] = /^event: (\w+)\ndata: (.*)$/s.exec(message) ?? [];
    if (!event || !data) return;
    this.events.push(event);
    this.porch =
      event === 'porch'
        ? PorchView.parse(JSON.parse(data))
        : applyPorchChange(this.porch, PorchChange.parse(JSON.parse(data)));
  }
}

/** Without what counts, and without what only one who asks twice would see differ. */
const plain = (porch: PorchView | undefined): unknown =>
  JSON.parse(JSON.stringify({ ...porch, nowMs: 0 }), (name, value: unknown) =>
    ['remainingMs', 'wrapUpMs', 'seenAtMs'].includes(name) ? undefined : value,
  );
const knowsAll = async (follower: Follower, rest: RestClient, what: string) => {
  const isSo = async () => isDeepStrictEqual(plain(follower.porch), plain(await rest.porch()));
  await until(`the same after ${what}`, isSo).catch(async () => {
    expect(plain(follower.porch), what).toEqual(plain(await rest.porch()));
  });
};

it('is the porch for whoever heard every change, whatever customers and colleagues do', async () => {
  // The same schedule each time (mulberry32).
  let seed = 11;
  const random = (): number => {
    seed = (seed + 0x6d2b79f5) | 0;
    let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
  const pick = <T>(list: readonly T[]): T | undefined => list[Math.floor(random() * list.length)];
  const [pim, rune, noor] = await Promise.all([
    house.signedIn('Pim Aldersey'),
    house.signedIn('Rune Takahashi'),
    house.signedIn('Noor Castellane'),
  ]);
  const looking = await Promise.all(
    [pim, pim, rune, noor].map(async (rest) => ({ rest, follower: await new Follower().follow(rest) })),
  );
  const door = rune;
  const waiting: string[] = [];
  const sessions: string[] = [];
  const faults: string[] = [];
  const acts: Record<string, () => Promise<unknown>> = {
    ask: async () => {
      const { token } = await door.request({
        ...{ name: 'Greta Moss', address: '', topic: 'Printing', language: 'en', wants: 'screen' as const },
        description: `Nothing prints ${random()}`,
      });
      waiting.push(token ?? '');
    },
    say: () => door.sayInQueue(pick(waiting) ?? '', `Hello ${random()}`),
    leave: () => door.leaveQueue(waiting.pop() ?? ''),
    away: () => rune.setMyState({ isAway: true }),
    here: () => rune.setMyState({ isAway: false, minutes: 5 }),
    fault: async () =>
      faults.push((await rune.publishKnownFault({ topic: 'Printing', text: 'The post office printer is out' })).id),
    mended: () => rune.endKnownFault(faults.pop() ?? ''),
    start: async () => {
      const [entry] = (await pim.porch()).waiting;
      sessions.push((await pim.start(entry ? { queueEntryId: entry.id } : { ticketRef: 'MF-201' })).session.id);
    },
    code: () => pim.newCode(pick(sessions) ?? ''),
    ticket: () => pim.start({ ticketRef: 'MF-203' }),
  };
  for (let i = 0; i < 45; i++) {
    const what = pick(Object.keys(acts)) ?? '';
    // What cannot be just now is refused, and changes nothing.
    await failure(acts[what]?.() ?? Promise.resolve());
    if (i % 3 === 2) for (const { follower, rest } of looking) await knowsAll(follower, rest, `${i} ${what}`);
  }
  const { follower } = looking[0] as (typeof looking)[number];
  expect(follower.events.filter((event) => event === 'change').length).toBeGreaterThan(5);
  for (const one of looking) one.follower.leave();
}, 180_000);

it('comes whole to pages of the release before, and to nobody who is signed out', async () => {
  const rest = await house.signedIn('Ilse Marchetti');
  const [old, now] = [await new Follower().follow(rest, '/api/feed'), await new Follower().follow(rest)];
  await until('both', () => old.porch && now.porch);
  expect([new Set(old.events), new Set(now.events)]).toEqual([new Set(['porch']), new Set(['change'])]);
  await knowsAll(old, rest, 'the beginning');
  await rest.signOut();
  await until('both to end', () => old.isOver && now.isOver);
  expect((await fetch(`${house.url}/api/porch/changes`)).status).toBe(401);
});
