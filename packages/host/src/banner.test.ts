import type { LiveConnection } from '@porch/client';
import { newSession, type Participant, type Permission } from '@porch/core';
import { fakeKit } from '@porch/testkit/fake-kit';
import { makeKeys } from '@porch/wire';
import { expect, it } from 'vitest';
import { hostAbilities } from './abilities/index.ts';
import { bannerOf } from './banner.ts';
import { GrantBook } from './consent/grant-book.ts';
import type { HandsPort } from './ports/desktop-ports.ts';

const SESSION = '00000000-0000-4000-8000-000000000001';
const keys = makeKeys();
const person = (id: string, name: string) =>
  ({
    id,
    seat: id === 'p' ? 1 : 2,
    side: 'desk',
    signKey: id,
    agreeKey: id,
    startId: id,
    isGone: false,
    name,
  }) as unknown as Participant;

/** The bar of a host whose abilities have begun, with Pim proven by other means and Rune not. */
async function bar(allowed: readonly (readonly [Permission, string])[], { isPrivate = false } = {}) {
  const privateAt = isPrivate ? ['doorstep'] : [];
  const connection = {
    sessionId: SESSION,
    keys,
    seat: 9,
    viewers: [],
    serviceNowMs: 1,
    on: () => () => undefined,
    state: {
      ...newSession,
      participants: { p: person('p', 'Pim Aldersey'), r: person('r', 'Rune Takahashi') },
      slices: { ...newSession.slices, presence: { privateAt, isAway: false } },
    },
  } as unknown as LiveConnection;
  const grants = new GrantBook(keys, SESSION, 0);
  for (const [permission, key] of allowed) grants.grant(permission, { signKey: key, agreeKey: key }, 1_000);
  const { kit } = fakeKit(connection, grants, { hands: { releaseAll: () => undefined } as unknown as HandsPort });
  kit.shared.isProven = (id) => id === 'p';
  const running = hostAbilities.filter(({ name }) => name !== 'picture').map((ability) => ability.begin(kit));
  const sees = {
    banner: () => ({ what: kit.words.picture.sees({ part: 'everything' }), besides: [] }),
    close: () => undefined,
  };
  const words = bannerOf(kit, [sees, ...running]);
  await Promise.all(running.map((one) => one.close()));
  return words;
}

it('tells in the bar what is allowed now, and nothing when nothing is', async () => {
  expect(await bar([])).toBeUndefined();
  expect(await bar([['view-screen', 'p']])).toEqual({
    who: 'Pim Aldersey',
    what: 'sees your screen',
    stop: 'Stop',
    hide: 'Show only …',
    private: 'Private',
    control: 'Ctrl',
  });
  expect(
    (
      await bar([
        ['view-screen', 'p'],
        ['control-input', 'p'],
      ])
    )?.what,
  ).toMatch(/may use mouse and keyboard/);
  expect(await bar([['view-screen', 'p']], { isPrivate: true })).toMatchObject({
    what: 'sees nothing: you do something private',
    private: 'Go on',
  });
  expect(
    (
      await bar([
        ['view-screen', 'p'],
        ['view-screen', 'r'],
      ])
    )?.who,
  ).toBe('Pim Aldersey and Rune Takahashi (not checked yet)');
});
