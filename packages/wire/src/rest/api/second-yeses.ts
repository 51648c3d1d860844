import { z } from 'zod';
import { operation } from '../operation.ts';
import { SecondYesBody } from '../second-yes-schemas.ts';

const OneAct = z.object({ id: z.uuid(), actId: z.uuid() });

export const giveSecondYes = operation({
  id: 'giveSecondYes',
  tag: 'Careful acts',
  method: 'PUT',
  path: '/sessions/{id}/careful-acts/{actId}/second-yes',
  who: 'technician',
  params: OneAct,
  body: SecondYesBody,
  answer: z.object({ sessionId: z.string() }),
  old: 'none',
});
export const lookAtOverride = operation({
  id: 'lookAtOverride',
  tag: 'Careful acts',
  method: 'PUT',
  path: '/sessions/{id}/careful-acts/{actId}/looked-at',
  who: 'technician',
  params: OneAct,
  answer: z.object({ sessionId: z.string() }),
  old: 'none',
});
