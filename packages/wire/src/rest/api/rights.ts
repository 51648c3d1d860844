import { z } from 'zod';
import { operation } from '../operation.ts';
import { RightsLeaveBody, RightsLeaveGiven } from '../rights-schemas.ts';

export const giveRightsLeave = operation({
  id: 'giveRightsLeave',
  tag: 'Administrator rights',
  method: 'POST',
  path: '/sessions/{id}/rights-leaves',
  who: 'technician',
  params: z.object({ id: z.uuid() }),
  body: RightsLeaveBody,
  answer: RightsLeaveGiven,
  old: 'none',
});
