import { z } from 'zod';
import type { AbilityDecision, AbilityRules, AnyCommand } from '../ability/ability-rules.ts';
import type { Table } from '../ability/ability-shape.ts';
import type { PersonView, SessionView } from '../ability/session-view.ts';
import { byType } from '../by-type.ts';
import type { RefusalCode } from '../decision.ts';
import type { PartAction } from '../people/part.ts';
import type { PermissionRules } from '../permission/permission-rules.ts';
import { administratorRightsRules, type AdministratorRightsPolicy } from './administrator-rights/rules.ts';
import { restartAndReturnRules, type RestartPolicy } from './restart-and-return/rules.ts';
import { cameraRules } from './camera/rules.ts';
import { checkWordsRules, type CheckWordsPolicy } from './check-words/rules.ts';
import { clipboardRules } from './clipboard/rules.ts';
import { desktopsRules } from './desktops/rules.ts';
import { drawingRules } from './drawing/rules.ts';
import { filesRules, type FilesPolicy } from './files/rules.ts';
import { handsOffRules, type HandsOffPolicy } from './hands-off/rules.ts';
import type { AbilityEvent, Slices } from './index.ts';
import { inputRules } from './input/rules.ts';
import { ownScreenRules } from './own-screen/rules.ts';
import { oneProgramRules } from './one-program/rules.ts';
import { passwordsRules } from './passwords/rules.ts';
import { pictureRules } from './picture/rules.ts';
import { presenceRules } from './presence/rules.ts';
import { printsRules } from './prints/rules.ts';
import { programsRules } from './programs/rules.ts';
import { riskyActsRules, type RiskyActsPolicy } from './risky-acts/rules.ts';
import { commandLineRules } from './command-line/rules.ts';
import { runbookRules } from './runbook/rules.ts';
import { safePointsRules, type SafePointsPolicy } from './safe-points/rules.ts';
import { screenshotRules } from './screenshot/rules.ts';
import { soundRules } from './sound/rules.ts';
import { speakingRules } from './speaking/rules.ts';
import { standingRules } from './standing/rules.ts';
import { systemReportRules } from './system-report/rules.ts';

/** Those abilities that have commands, or hold something back. */
const ruled = [
  pictureRules,
  inputRules,
  drawingRules,
  filesRules,
  clipboardRules,
  soundRules,
  speakingRules,
  cameraRules,
  ownScreenRules,
  handsOffRules,
  checkWordsRules,
  presenceRules,
  oneProgramRules,
  passwordsRules,
  standingRules,
  screenshotRules,
  systemReportRules,
  programsRules,
  safePointsRules,
  riskyActsRules,
  runbookRules,
  commandLineRules,
  administratorRightsRules,
  restartAndReturnRules,
  printsRules,
  desktopsRules,
] as const;
/** What a desk sets for them. */
export type AbilityPolicy = FilesPolicy &
  CheckWordsPolicy &
  HandsOffPolicy &
  SafePointsPolicy &
  RestartPolicy &
  RiskyActsPolicy &
  AdministratorRightsPolicy;

type Ruled = (typeof ruled)[number];
type CommandsOf<R> = R extends { readonly rules: { readonly commands: infer C extends Table } } ? AnyCommand<C> : never;
export type AbilityCommand = Ruled extends infer R ? CommandsOf<R> : never;

interface PlainRuled {
  readonly shape: { readonly name: string };
  readonly rules: AbilityRules<Table, unknown, Table, AbilityPolicy>;
}
const plain = ruled as unknown as readonly PlainRuled[];
const sliceOf = (slices: Slices, { shape }: PlainRuled): unknown => slices[shape.name as keyof Slices];

const owners = byType(
  'command',
  plain.flatMap((one) => Object.keys(one.rules.commands).map((type) => [type, one] as const)),
);
export const abilityCommandSchemas = plain.flatMap(({ rules }) =>
  Object.entries(rules.commands).map(([type, fields]) => z.strictObject({ type: z.literal(type), ...fields })),
);

export const isAbilityCommand = (command: { readonly type: string }): command is AbilityCommand =>
  owners.has(command.type);

export function decideAbility(
  slices: Slices,
  command: AbilityCommand,
  me: PersonView,
  view: SessionView,
  policy: AbilityPolicy,
): AbilityDecision<Table> {
  const owner = owners.get(command.type);
  const decide = owner?.rules.decide[command.type];
  if (!owner || !decide) return [];
  return decide(sliceOf(slices, owner), command, me, view, policy);
}

/** What a command is, to the table of parts. */
export const abilityActionOf = ({ type }: AbilityCommand): PartAction | undefined =>
  owners.get(type)?.rules.actions[type];

/** Whether it gives something back that was taken away: then it must not come twice, or late. */
export const abilityGivesBack = (command: AbilityCommand): boolean =>
  owners.get(command.type)?.rules.givesBack?.[command.type]?.(command) ?? false;

/** When something next comes to pass by itself in any ability. */
export const abilitiesNextMs = (slices: Slices): number[] =>
  plain.flatMap((one) => one.rules.nextMs?.(sliceOf(slices, one)) ?? []);
/** What came to pass by itself until now. */
export const abilitiesTimePassed = (slices: Slices, nowMs: number): AbilityEvent[] =>
  plain.flatMap((one) => [...(one.rules.timePassed?.(sliceOf(slices, one), nowMs) ?? [])]) as AbilityEvent[];

/** The first reason of any ability why this permission may not be asked just now. */
export function heldBack(
  slices: Slices,
  view: SessionView,
  asked: { readonly permission: string; readonly rules: PermissionRules; readonly participantId: string },
  policy: AbilityPolicy,
): RefusalCode | undefined {
  for (const one of plain) {
    const why = one.rules.holdsBack?.(view, sliceOf(slices, one), asked, policy);
    if (why) return why;
  }
  return undefined;
}
