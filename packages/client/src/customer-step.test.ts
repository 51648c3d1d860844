import { newSession, type SessionState } from '@porch/core';
import { participantOf } from '@porch/testkit/participant';
import { expect, it } from 'vitest';
import { customerStep } from './customer-step.ts';

it('is what the page says until Doorstep is there, and what Doorstep says from then on', () => {
  const participants = { page: participantOf('page', 2, 'page'), bettina: participantOf('bettina', 3, 'doorstep') };
  const state = (holderId: string | undefined): SessionState => ({ ...newSession, holderId, participants });
  const page = { participantId: 'page', isConnected: true, step: 'getting-doorstep' } as const;
  const doorstep = { participantId: 'bettina', isConnected: true } as const;
  expect(customerStep(state(undefined), [])).toBeUndefined();
  expect(customerStep(state(undefined), [page])).toBe('getting-doorstep');
  expect(customerStep(state('bettina'), [page, doorstep])).toBe('ready');
  expect(customerStep(state('bettina'), [page, { ...doorstep, step: 'prompt-open' }])).toBe('prompt-open');
  expect(customerStep(state('bettina'), [page, { ...doorstep, isConnected: false }])).toBe('getting-doorstep');
});
