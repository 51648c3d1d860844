/** One thing a technician may do, with its rules. */
export interface PermissionRules {
  /** One word for what is asked every day, on a command line. */
  readonly shortName?: string;
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
  /** What a technician does with the customer's own hands: given back before the customer tries for themselves. */
  readonly isHandsOn?: true;
  /** Looking on, and nothing else: what even a trainee may ask. */
  readonly isLookingOnly?: true;
  /** Whoever has it sees what the customer's display shows: it has to be chosen in the browser, or hidden beforehand. */
  readonly showsPicture?: true;
  /** Whoever has it shows a picture of their own to the customer's side. */
  readonly showsOwnPicture?: true;
  /** Rests during a private moment: it sees more than the display does. */
  readonly restsInPrivate?: true;
  /** Whoever has it takes things of the customer's away: they can hand them over, too. */
  readonly takesAway?: true;
  /** Lets the desk come back without a session before it. */
  readonly isForComingBack?: true;
  /** What a program that says nothing of itself can do. */
  readonly wasInFirstRelease?: true;
  /** Asked only of a customer whose identity somebody else has confirmed. */
  readonly needsConfirmed?: true;
  /** What nobody in the session may have, or be asked for, at the same time; it holds both ways. */
  readonly neverWith?: readonly string[];
  /** One yes lasts no longer than this. */
  readonly longestMs?: number;
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
