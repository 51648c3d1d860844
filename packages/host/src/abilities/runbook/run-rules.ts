import {
  environmentOf,
  RUN_RISK,
  valueFaults,
  type Participant,
  type Permission,
  type PointTouches,
  type RunbookAction,
  type RunbookPlatform,
  type RunbookValues,
} from '@porch/core';
import { careHere, isCleared } from '../../care.ts';
import type { Kit } from '../../kit.ts';
import type { ScriptToRun } from '../../ports/runbook-port.ts';
import { ASKING, NEEDS_LEAVE, NEVER_HERE } from '../../reasons.ts';

const MAX_GIVEN_CHARS = 800;

interface Asked {
  readonly runId: string;
  readonly from: Participant;
  readonly action: RunbookAction;
}

/** Why an action is not even looked at here; undefined when it is. */
export function whyNeverRun(
  kit: Kit,
  platform: RunbookPlatform,
  { runId, from, action, given }: Asked & { readonly given: RunbookValues },
): string | undefined {
  const { state } = kit.connection;
  if (state.slices.runbook[runId]?.standing !== 'chosen') return 'it was run already';
  if (!action.platforms.includes(platform)) return 'this action is not for this kind of computer';
  if (isWithoutRights(kit, from, action)) return NO_RIGHTS;
  if (!hasAll(kit, from, action)) return 'another permission is missing for it';
  if (Object.keys(valueFaults(action, given)).length) return 'a value for it is missing or wrong';
  if (action.isRisky && careHere(kit)?.isNever) return NEVER_HERE;
  return undefined;
}

/** Why what was looked at is not run just now; undefined when it is. */
export function whyNotNow(kit: Kit, { runId, from, action }: Asked): string | undefined {
  const { slices } = kit.connection.state;
  if (kit.isAsking) return ASKING;
  if (slices.runbook[runId]?.standing !== 'chosen') return 'it was run already';
  if (isWithoutRights(kit, from, action)) return NO_RIGHTS;
  if (!hasAll(kit, from, action)) return 'another permission is missing for it';
  const asked = { actId: runId, act: RUN_RISK, name: action.title, byId: from.id };
  if (isCareful(kit, action) && !isCleared(kit, asked)) return NEEDS_LEAVE;
  return undefined;
}

/** Whether the device's label asks for care, and something may stop working by this action. */
export const isCareful = (kit: Kit, { isRisky }: RunbookAction): boolean => isRisky && careHere(kit) !== undefined;

/** Whether it runs as the computer's administrator. */
export const isRaised = ({ kind, rights }: RunbookAction): boolean => kind === 'script' && rights === 'administrator';

const NO_RIGHTS = 'it needs administrator rights, which this session does not have';
const isWithoutRights = ({ shared }: Kit, { signKey }: Participant, action: RunbookAction): boolean =>
  isRaised(action) && !shared.raisedFor(signKey);

/** Whether everything is there that it needs besides: permissions, and rights. */
export const hasAll = (kit: Kit, from: Participant, action: RunbookAction): boolean =>
  action.needs.every((permission) => kit.held.holds(permission as Permission, from.signKey)) &&
  !isWithoutRights(kit, from, action);

export const scriptOf = (runId: string, action: RunbookAction, values: RunbookValues): ScriptToRun => ({
  runId,
  interpreter: action.interpreter ?? 'sh',
  text: action.body,
  environment: environmentOf(action, values),
});

/** What is saved before it: what it says that it touches, and the file that it replaces. */
export function touchesOf({ touches, target }: RunbookAction): PointTouches | undefined {
  const paths = [...touches.paths, ...(target === undefined ? [] : [target])];
  return paths.length || touches.services.length || touches.hasPackages ? { ...touches, paths } : undefined;
}

/** What was given, as the ledger has it: nothing of secrets. */
export const givenInWords = ({ parameters }: RunbookAction, values: RunbookValues): string =>
  parameters
    .filter(({ name, kind }) => kind !== 'secret' && values[name])
    .map(({ name, label }) => `${label}: ${values[name] ?? ''}`)
    .join('; ')
    .slice(0, MAX_GIVEN_CHARS);
