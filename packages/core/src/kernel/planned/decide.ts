import { refuse } from '../../decision.ts';
import { withNeeds } from '../../permission/permission.ts';
import type { Deciders } from '../decider.ts';
import { isOver } from '../state.ts';
import type { plannedCommands } from './commands.ts';

export const plannedDeciders = {
  'planned/choose': (s, c, me, x) => {
    if (isOver(s)) return refuse('SESSION_ENDED');
    const permissions = withNeeds(c.permissions);
    if (permissions.some((permission) => !x.mayAsk(me.technicianId, permission))) return refuse('NOT_ALLOWED_BY_DESK');
    const isSame = JSON.stringify(permissions) === JSON.stringify(s.planned);
    return isSame ? [] : [{ type: 'planned/chosen', by: me.id, permissions }];
  },
} satisfies Deciders<typeof plannedCommands>;
