/** Who works at the desk, as far as it matters for what they may do. */
export interface Person {
  readonly id: string;
  readonly role: 'technician' | 'trainee' | 'lead';
  readonly team: string;
}

/** The team that stands over all others: its leads lead the whole desk. */
export const DESK_TEAM = 'Desk';

/** What somebody wants to do something to, as far as it matters whether they may. */
export interface Thing {
  /** Whose it is: the holder of a session, who has a booking, who published a known fault. */
  readonly ownerId?: string | undefined;
  readonly ownerTeam?: string | undefined;
  /** Sessions: whether they were in it themselves. */
  readonly wasIn?: boolean;
  /** Handovers and offers: whom they are put before. */
  readonly offeredTo?: string | undefined;
  /** Handovers: whether whom it was put before has said yes. */
  readonly isAccepted?: boolean;
  /** Acts on careful devices: whether they ask for it themselves. */
  readonly isOwnAct?: boolean;
  /** Sessions: whether whoever leads lets them come in beside. */
  readonly isLetIn?: boolean;
}
type Rule = (person: Person, on: Thing) => boolean;

const everybody: Rule = () => true;
const noTrainee: Rule = ({ role }) => role !== 'trainee';
const owner: Rule = ({ id }, on) => on.ownerId === id;
const offered: Rule = ({ id }, on) => on.offeredTo === id;
const letIn: Rule = (_, on) => on.isLetIn === true;
const leads: Rule = ({ role, team }, on) =>
  role === 'lead' && (team === DESK_TEAM || (on.ownerTeam !== undefined && on.ownerTeam === team));
const teamMate: Rule = ({ team }, on) => on.ownerTeam === team;
const either =
  (...rules: Rule[]): Rule =>
  (person, on) =>
    rules.some((rule) => rule(person, on));
const both =
  (...rules: Rule[]): Rule =>
  (person, on) =>
    rules.every((rule) => rule(person, on));

/** Person × action × thing: the only place that knows roles. What is not here, nobody may. */
const table = {
  // The desk as a whole.
  'see the porch': everybody,
  'see colleagues': everybody,
  'search tickets': everybody,
  'say where they are': everybody,
  'see known faults': everybody,
  'see devices': everybody,
  'see who calls': everybody,
  'see their sign-ins': everybody,
  'choose what suits them': everybody,
  'end a sign-in': owner,
  // Those who wait.
  'take somebody waiting': either(noTrainee, offered),
  'write to somebody waiting': either(noTrainee, offered),
  'pass an offer on': either(noTrainee, offered),
  // Known faults.
  'publish a known fault': noTrainee,
  'end a known fault': either(leads, both(noTrainee, either(owner, teamMate))),
  // What the desk wrote down about faults.
  'read knowledge notes': everybody,
  'write a knowledge note': everybody,
  'review a knowledge note': noTrainee,
  'withdraw a knowledge note': either(owner, leads),
  // What the desk prepared to be run. Whose it is, and of which team, is asked besides.
  'read the runbook': everybody,
  'write a runbook action': everybody,
  'review a runbook action': noTrainee,
  'approve a runbook action': leads,
  'withdraw a runbook action': either(owner, leads),
  // Administrator rights on a customer's computer, by the desk's leave.
  'have administrator rights': noTrainee,
  // Bookings.
  'see bookings': everybody,
  book: either(owner, leads, both(noTrainee, teamMate)),
  'change a booking': either(owner, leads),
  // Sessions.
  'start a session': everybody,
  'list sessions': everybody,
  'read a session': either(owner, leads, letIn, (_, on) => on.wasIn === true),
  /** Being asked opens the brief; only a yes opens the session. */
  'join a session': either(
    owner,
    both(offered, (_, on) => on.isAccepted === true),
    letIn,
  ),
  'invite into a session': owner,
  'erase a session': leads,
  'answer a handover': offered,
  /** Never to what they ask for themselves. */
  'give a second yes': both(noTrainee, (_, on) => on.isOwnAct !== true),
  'look at an override': leads,
  // Devices with a standing consent.
  'visit a device': noTrainee,
  'forget a device': noTrainee,
} as const satisfies Record<string, Rule>;

export type Action = keyof typeof table;
export const allActions = Object.keys(table) as Action[];

export const mayDo = (person: Person, action: Action, on: Thing = {}): boolean =>
  Object.hasOwn(table, action) && table[action](person, on);

/** Whether somebody of this role could ever do it, to whatever: what a route asks before it looks at anything. */
export function couldDo(person: Person, action: Action): boolean {
  const { id, team } = person;
  return mayDo(person, action, {
    ownerId: id,
    ownerTeam: team,
    wasIn: true,
    offeredTo: id,
    isAccepted: true,
    isLetIn: true,
  });
}
