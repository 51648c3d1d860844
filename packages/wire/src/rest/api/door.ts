import { Language, RestartStep } from '@porch/core';
import { z } from 'zod';
import { operation } from '../operation.ts';
import {
  ConnectionPass,
  DeskView,
  EntryStatus,
  KeepDeviceBody,
  KeptDevice,
  KnownFaultView,
  QueueEntryView,
  ReceiptView,
  RequestBody,
  SayBody,
} from '../rest-schemas.ts';
import { DoorView, Joined } from '../door-schemas.ts';
import { JoinBody } from '../join-body.ts';

const Mine = z.strictObject({ token: z.string().max(100) });

export const desk = operation({
  id: 'getDesk',
  tag: 'Door',
  method: 'GET',
  path: '/door',
  who: 'anybody',
  answer: DeskView,
});
export const join = operation({
  id: 'join',
  tag: 'Door',
  method: 'POST',
  path: '/door/passes',
  who: 'anybody',
  body: JoinBody,
  answer: Joined,
  status: 201,
  old: { path: '/door/join' },
});
export const door = operation({
  id: 'getOwnSession',
  tag: 'Door',
  method: 'GET',
  path: '/door/session',
  who: 'customer',
  answer: DoorView,
});
export const doorLive = operation({
  id: 'makeCustomerConnectionPass',
  tag: 'Door',
  method: 'POST',
  path: '/door/connection-passes',
  who: 'customer',
  answer: ConnectionPass,
  status: 201,
  old: { path: '/door/live' },
});
export const doorDownload = operation({
  id: 'makeDownload',
  tag: 'Door',
  method: 'POST',
  path: '/door/downloads',
  who: 'customer',
  answer: z.object({ path: z.string() }),
  status: 201,
  old: { path: '/door/download' },
});
export const tellStep = operation({
  id: 'tellRestartStep',
  tag: 'Door',
  method: 'POST',
  path: '/door/restart-steps',
  who: 'customer',
  body: z.strictObject({ step: RestartStep }),
});
export const keepDevice = operation({
  id: 'keepDevice',
  tag: 'Door',
  method: 'POST',
  path: '/door/devices',
  who: 'customer',
  body: KeepDeviceBody,
  answer: KeptDevice,
  status: 201,
  old: { path: '/door/device' },
});
export const receipt = operation({
  id: 'getCustomerCopy',
  tag: 'Door',
  method: 'GET',
  path: '/door/receipt',
  who: 'customer',
  query: z.object({ language: Language.optional() }),
  answer: ReceiptView,
});

export const request = operation({
  id: 'askForHelp',
  tag: 'Door',
  method: 'POST',
  path: '/door/requests',
  who: 'anybody',
  body: RequestBody,
  answer: EntryStatus,
  status: 201,
  isOnce: true,
});
export const entry = operation({
  id: 'getHelpRequest',
  tag: 'Door',
  method: 'POST',
  path: '/door/requests/mine',
  who: 'anybody',
  body: Mine,
  answer: EntryStatus,
});
export const sayInQueue = operation({
  id: 'writeWhileWaiting',
  tag: 'Door',
  method: 'POST',
  path: '/door/requests/messages',
  who: 'anybody',
  body: SayBody,
  answer: EntryStatus,
  old: { path: '/door/requests/say' },
});
export const leaveQueue = operation({
  id: 'stopWaiting',
  tag: 'Door',
  method: 'POST',
  path: '/door/requests/leave',
  who: 'anybody',
  body: Mine,
  answer: z.object({ entry: QueueEntryView }),
});
export const happensToo = operation({
  id: 'reportKnownFault',
  tag: 'Door',
  method: 'POST',
  path: '/door/known-faults/{id}/happens-to-me',
  who: 'anybody',
  params: z.object({ id: z.uuid() }),
  body: z.strictObject({ name: z.string().trim().min(1).max(120), address: z.string().trim().max(200) }),
  answer: KnownFaultView,
});
