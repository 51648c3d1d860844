import type { z } from 'zod';
import { chatEvents } from './chat/events.ts';
import { consentEvents } from './consent/events.ts';
import { endingEvents } from './ending/events.ts';
import { handoverEvents } from './handover/events.ts';
import { invitingEvents } from './inviting/events.ts';
import { joiningEvents } from './joining/events.ts';
import { besideEvents } from './beside/events.ts';
import { plannedEvents } from './planned/events.ts';
import { possibleEvents } from './possible/events.ts';

/*
 * What changes a session whatever it can do. What stands in `personal` is what a person may have erased: it is stored and
 * hashed apart, and no state that a decision depends on is made from it.
 */
export const kernelEvents = [
  ...invitingEvents,
  ...joiningEvents,
  ...besideEvents,
  ...plannedEvents,
  ...possibleEvents,
  ...consentEvents,
  ...chatEvents,
  ...handoverEvents,
  ...endingEvents,
] as const;
export type KernelEvent = z.output<(typeof kernelEvents)[number]>;
export type KernelEventOf<T extends KernelEvent['type']> = Extract<KernelEvent, { type: T }>;
