import type { LiveConnection } from '@porch/client';
import { newSession, type Participant, type Permission, type SessionState } from '@porch/core';
import { fakeKit } from '@porch/testkit/fake-kit';
import { makeKeys } from '@porch/wire';
import { describe, expect, it } from 'vitest';
import { GrantBook } from '../../consent/grant-book.ts';
import type { HidingPort } from '../../ports/hiding-port.ts';
import type { RestartPort, ReturnAgreement } from '../../ports/restart-port.ts';
import { ComingBack } from './coming-back.ts';

const pim = { id: 'pim', signKey: 'a'.repeat(64), agreeKey: 'b'.repeat(64), isGone: false } as Participant;
const SESSION = '00000000-0000-4000-8000-000000000001';
const agreed: ReturnAgreement = {
  ...{ signKey: pim.signKey, agreeKey: pim.agreeKey },
  permissions: (['view-screen', 'control-input', 'give-files', 'restart-computer'] as const).map((permission) => ({
    permission,
    endsAtMs: 9_000,
  })),
};

function world(returned: ReturnAgreement | 'nothing' = agreed, said: readonly string[] = []) {
  const kept: string[][] = [];
  const hiding = { hidesAny: false, shown: { what: 'everything' } as HidingPort['shown'] };
  const restart = { ...newSession.slices['restart-and-return'], agreed: { participantId: 'pim', permissions: said } };
  const slices = { ...newSession.slices, 'restart-and-return': restart };
  const state: SessionState = { ...newSession, slices, participants: { pim } };
  const connection = { state, serviceNowMs: 1_000 } as LiveConnection;
  const port = {
    returned: returned === 'nothing' ? undefined : returned,
    keep: (agreement?: ReturnAgreement) => {
      kept.push(agreement?.permissions.map(({ permission }) => permission) ?? []);
      return Promise.resolve();
    },
  } as RestartPort;
  const { kit, facts } = fakeKit(connection, new GrantBook(makeKeys(), SESSION, 0), { hiding: hiding as HidingPort });
  const back = new ComingBack(kit, port);
  const covers = (...permissions: Permission[]) =>
    back.coveredUntilMs({ id: 'x', participantId: 'pim', permissions, expiresAtMs: 9_999 }) !== undefined;
  return { back, covers, facts, kept, hiding };
}

describe('what comes back', () => {
  it('is said as it begins, answered once each, and asked for by anybody anew after that', () => {
    const { back, covers, facts } = world();
    expect(facts).toMatchObject([
      { type: 'restart-and-return/tellReturned', permissions: agreed.permissions.map(({ permission }) => permission) },
    ]);
    expect([covers('view-screen', 'control-input'), covers('fetch-files')]).toEqual([true, false]);
    back.used('pim', 'view-screen');
    expect([covers('view-screen'), covers('control-input')]).toEqual([false, true]);
  });

  it('is less in the very tick in which something is taken back, with whatever is nothing without it, and so on the disk', async () => {
    const { back, covers, facts, kept } = world();
    back.gone('pim', 'view-screen');
    expect([covers('view-screen'), covers('control-input'), covers('give-files')]).toEqual([false, false, true]);
    expect(facts.at(-1)).toMatchObject({ permissions: ['give-files', 'restart-computer'] });
    await back.close();
    expect(kept).toEqual([['give-files', 'restart-computer']]);
    back.gone('somebody else', 'give-files');
    back.gone('pim', 'view-screen');
    expect(covers('give-files')).toBe(true);
    await back.close();
    expect(kept).toHaveLength(1);
  });

  it('is nothing after Stop, though the service has not heard of it, and Doorstep comes back to tell it', async () => {
    const { back, covers, kept } = world();
    back.allGone();
    expect([covers('view-screen'), covers('restart-computer')]).toEqual([false, false]);
    await back.close();
    expect(kept, 'kept, and empty').toEqual([[]]);
  });

  it('is without the screen from when the person keeps something of it to themselves', async () => {
    const { back, covers, kept, hiding } = world();
    back.follow();
    expect(covers('view-screen')).toBe(true);
    hiding.hidesAny = true;
    back.follow();
    back.follow();
    hiding.hidesAny = false;
    back.follow();
    expect([covers('view-screen'), covers('control-input'), covers('give-files')]).toEqual([false, false, true]);
    await back.close();
    expect(kept).toEqual([['give-files', 'restart-computer']]);
  });

  it('is nothing where the program was ended and not the computer, and the ledger says so', () => {
    const { covers, facts } = world('nothing', ['view-screen']);
    expect(covers('view-screen')).toBe(false);
    expect(facts).toMatchObject([{ type: 'restart-and-return/tellAgreed', participantId: 'pim', permissions: [] }]);
  });

  it('is what the person said last', async () => {
    const { back, covers, facts } = world('nothing');
    expect(facts).toEqual([]);
    await back.agree(agreed, 'pim');
    expect(covers('view-screen'), 'of the next start, not of this one').toBe(false);
    expect(facts).toMatchObject([{ type: 'restart-and-return/tellAgreed', participantId: 'pim' }]);
  });
});
