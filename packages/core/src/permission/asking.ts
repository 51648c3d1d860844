import { comingBackPermissions, permissionsThat, Permission, rulesOf } from './permission.ts';

/** How long an ask stays open, and how soon after a no the same may be asked again. */
export interface AskTimes {
  readonly openMs: number;
  readonly againMs: number;
}
export interface AskRules {
  readonly usual: AskTimes;
  /** For what is asked alone: people think longer about it, and are left alone longer after a no. */
  readonly sensitive: AskTimes;
}

/** After this many doublings a no stands for the rest of any session. */
const MAX_DOUBLINGS = 10;

export const askOpenMs = (rules: AskRules, permissions: readonly Permission[]): number =>
  Math.max(...permissions.map((p) => (rulesOf(p).isSensitive ? rules.sensitive.openMs : rules.usual.openMs)));

/** No nagging: each further no to the same doubles the time for which it is not asked again. */
export function askAgainMs(rules: AskRules, permission: Permission, noes: number): number {
  const { againMs } = rulesOf(permission).isSensitive ? rules.sensitive : rules.usual;
  return againMs * 2 ** Math.min(MAX_DOUBLINGS, Math.max(0, noes - 1));
}

/** What a team, a role, or everybody may not ask. */
export interface AskLimit {
  /** A team's or a role's name; `*` is everybody. */
  readonly who: string;
  readonly permissions: readonly Permission[];
}

/** A trainee looks over a shoulder, and changes nothing. A desk that says something of trainees replaces this. */
export const defaultAskLimits: readonly AskLimit[] = [
  { who: 'trainee', permissions: permissionsThat((rules) => !rules.isLookingOnly) },
];

/** Whether this technician's team and role let them ask. */
export function mayAsk(
  limits: readonly AskLimit[],
  technician: { readonly team: string; readonly role: string },
  permission: Permission,
): boolean {
  return !limits.some(
    ({ who, permissions }) =>
      (who === '*' || who === technician.team || who === technician.role) && permissions.includes(permission),
  );
}

/** Reads "Back Office: use-command-line + raise-rights; trainee: control-input". Throws with what is wrong. */
export function readAskLimits(text: string): readonly AskLimit[] {
  const limits = text
    .split(';')
    .map((part) => part.trim())
    .filter(Boolean)
    .map((part) => {
      const [who = '', list = ''] = part.split(':').map((side) => side.trim());
      if (!who || !list) throw new Error(`“${part}” is not like “Back Office: use-command-line + raise-rights”`);
      return { who, permissions: list.split('+').map((word) => readPermission(word)) };
    });
  return limits.some(({ who }) => who === 'trainee') ? limits : [...defaultAskLimits, ...limits];
}

export function readPermission(word: string): Permission {
  const permission = Permission.safeParse(word.trim());
  if (!permission.success) throw new Error(`there is no permission “${word.trim()}”`);
  return permission.data;
}

/** Whether this technician may visit a device at all: that is a session that nobody at it began. */
export const mayComeBack = (
  limits: readonly AskLimit[],
  technician: { readonly team: string; readonly role: string },
): boolean => comingBackPermissions.every((permission) => mayAsk(limits, technician, permission));
