import { z } from 'zod';

/** Why a permission makes no sense with whom holds the consent; `whyNotWords` says it to technicians. */
export const WhyNot = z.enum(['browser-cannot', 'not-in-this-release', 'no-standing-consent-here']);
export type WhyNot = z.infer<typeof WhyNot>;

export const whyNotWords: Readonly<Record<WhyNot, string>> = {
  'browser-cannot': 'a page in a browser cannot do this; ask them to open Doorstep',
  'not-in-this-release': 'the Doorstep they run does not do this',
  'no-standing-consent-here': 'this computer can make no standing consent, or has one already',
};

interface PermissionRules {
  readonly label: string;
  /** The permission without which this one is nothing. */
  readonly needs?: string;
  /** Always asked alone, open for longer, and asked again later after a no. */
  readonly isSensitive?: true;
  /** Whether the customer's page can hold it, or only Doorstep. */
  readonly worksInBrowser?: true;
  /** Whether the console shows it always; the rest waits under More. */
  readonly isUsual?: true;
  /** Whether a standing consent can hold it. */
  readonly canStand?: true;
  /** Not asked of somebody under age, even with a guardian beside them. */
  readonly isNotForMinors?: true;
  /** One yes lasts no longer than this. */
  readonly longestMs?: number;
  /** What is undone the moment it is taken back, to be said to the technician. */
  readonly undone: string;
}

/** The catalogue: one thing a technician may do, with its rules. What another one needs stands before it. */
export const permissionCatalogue = {
  'view-screen': {
    label: 'See the screen',
    worksInBrowser: true,
    isUsual: true,
    canStand: true,
    undone: 'the picture stops, and a new key keeps out whoever had it',
  },
  'control-input': {
    label: 'Use mouse and keyboard',
    needs: 'view-screen',
    isUsual: true,
    canStand: true,
    undone: 'every key and button that is held is let go',
  },
  'draw-on-screen': {
    label: 'Point and draw',
    needs: 'view-screen',
    worksInBrowser: true,
    undone: 'what was drawn goes',
  },
  'give-files': {
    label: 'Give files',
    isUsual: true,
    canStand: true,
    undone: 'files on their way stop, and what came of them is deleted',
  },
  'fetch-files': {
    label: 'Fetch files',
    // A fetched file leaves the computer for good.
    isSensitive: true,
    isUsual: true,
    undone: 'files on their way stop',
  },
  'give-clipboard': { label: 'Put onto the clipboard', needs: 'control-input', undone: 'nothing more is put there' },
  'read-clipboard': { label: 'Read the clipboard', needs: 'control-input', undone: 'nothing more is read' },
  'hear-sound': { label: 'Hear the computer', needs: 'view-screen', undone: 'the sound stops' },
  'speak-together': { label: 'Speak together', undone: 'microphones are closed' },
  'see-camera': { label: 'See the camera', isSensitive: true, isNotForMinors: true, undone: 'the camera is closed' },
  'show-own-screen': { label: 'Show my screen', undone: 'the picture goes from their screen' },
  'read-system-report': { label: 'Read a system report', undone: 'what is still being read is not sent' },
  'inspect-programs': {
    label: 'See what programs run',
    needs: 'read-system-report',
    undone: 'the lists are sent no longer',
  },
  'change-programs': {
    label: 'Stop and start programs',
    needs: 'inspect-programs',
    undone: 'nothing more is stopped or started',
  },
  'take-prints': { label: 'Receive their printouts', undone: 'the printer that was added goes' },
  'run-runbook': { label: 'Run runbook actions', undone: 'an action that runs is ended' },
  'use-command-line': { label: 'Use a command line', undone: 'the command line and what it runs are ended' },
  'raise-rights': { label: 'Have administrator rights', isSensitive: true, undone: 'the rights fall back' },
  'restart-computer': { label: 'Restart and return', undone: 'a restart that has not begun does not happen' },
  'record-session': {
    label: 'Record the session',
    needs: 'view-screen',
    isSensitive: true,
    isNotForMinors: true,
    undone: 'the recording ends there and says so',
  },
  'cover-screen': {
    label: 'Cover the screen',
    needs: 'control-input',
    isSensitive: true,
    undone: 'the cover is lifted',
  },
  'block-input': {
    label: 'Block their mouse and keyboard',
    needs: 'control-input',
    isSensitive: true,
    undone: 'their mouse and keyboard work again',
  },
  'work-alone': {
    label: 'Use mouse and keyboard while they are away',
    needs: 'control-input',
    isSensitive: true,
    // Nobody is left alone with somebody's computer for longer on one yes.
    longestMs: 60 * 60_000,
    undone: 'control pauses when nobody is there',
  },
  'keep-device': {
    label: 'Connect to this computer later',
    isSensitive: true,
    undone: 'the standing consent and all that belongs to it are gone from the computer',
  },
} as const satisfies Record<string, PermissionRules>;

export type Permission = keyof typeof permissionCatalogue;
export const allPermissions = Object.keys(permissionCatalogue) as [Permission, ...Permission[]];
export const Permission = z.enum(allPermissions);

/** At most so many in one ask: as many as a person reads, and as fit into the question at the customer's desktop. */
export const MAX_ASKED_TOGETHER = 8;

export const rulesOf = (permission: Permission): PermissionRules & { readonly needs?: Permission } =>
  permissionCatalogue[permission];

/** Whether what a permission needs is there; it is nothing without. */
export function hasWhatItNeeds(permission: Permission, has: (needed: Permission) => boolean): boolean {
  const { needs } = rulesOf(permission);
  return needs === undefined || has(needs);
}

/** Those permissions that fall when this one falls. */
export function dependants(permission: Permission): Permission[] {
  return allPermissions.filter((other) => rulesOf(other).needs === permission);
}

/** Where one permission stands for one technician's key: one value, one moment. */
export type PermissionStanding =
  | { readonly name: 'notAsked' }
  | { readonly name: 'waiting'; readonly askId: string; readonly expiresAtMs: number }
  | { readonly name: 'allowed'; readonly grantNumber: number; readonly endsAtMs: number }
  | { readonly name: 'saidNo'; readonly atMs: number }
  | { readonly name: 'lapsed'; readonly atMs: number }
  | { readonly name: 'takenBack'; readonly atMs: number }
  | { readonly name: 'over'; readonly atMs: number };

/** A granted permission counts only until its end. */
export function isEffective(standing: PermissionStanding | undefined, nowMs: number): boolean {
  return standing?.name === 'allowed' && nowMs < standing.endsAtMs;
}
