import type { LiveConnection } from '@porch/client';
import { newSession, type Participant } from '@porch/core';
import { makeKeys } from '@porch/wire';
import { expect, it } from 'vitest';
import { ConsentHolder, type HolderParts } from './consent-holder.ts';
import { GrantBook } from './grant-book.ts';

const pim = { id: 'pim', side: 'desk', isGone: false, ...makeKeys() } as unknown as Participant;

it('tells abilities in the very tick what the person takes back, with or without a line to anybody', () => {
  const heard: unknown[] = [];
  const grants = new GrantBook(makeKeys(), '00000000-0000-4000-8000-000000000001', 0);
  grants.grant('control-input', pim, 9_000);
  const connection = {
    state: { ...newSession, participants: { pim } },
    ...{ status: 'connecting', serviceNowMs: 1_000, on: () => () => undefined },
  } as unknown as LiveConnection;
  const holder = new ConsentHolder({
    ...{ connection, grants, report: () => undefined, onChanged: () => undefined },
    abilities: () => [{ takenBack: (...of: unknown[]) => heard.push(of), close: () => undefined }],
  } as unknown as HolderParts);
  holder.takeHandsBack('by a key');
  expect(heard).toEqual([['pim', 'control-input']]);
  holder.stop('pressed Stop');
  holder.stop('pressed Stop again');
  expect(heard).toEqual([['pim', 'control-input'], []]);
});
