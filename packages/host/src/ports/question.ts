/** One thing asked of the person at the desktop. Both answers are the same size, and neither is chosen beforehand. */
export interface Question {
  readonly title: string;
  readonly lines: readonly string[];
  readonly yes: string;
  readonly no: string;
  /** Said while nothing counts yet, and once it does. */
  readonly readFirst: string;
  readonly onlyYou: string;
  /** Parts of what is asked, each of which can be left out. */
  readonly choices?: readonly { readonly label: string; readonly isOn: boolean }[];
  /** Exactly one of the choices holds. */
  readonly isOneOf?: true;
  /** What stands here is for the person alone: no technician sees it, even one who may look. */
  readonly isSecret?: true;
  /** Something is typed besides, which is shown as dots and kept nowhere; without it there is no yes. */
  readonly typed?: { readonly label: string };
  /** A third way to go: neither yes nor no. */
  readonly more?: string;
}

/** `choices` says which parts stayed in, in their order. */
export type Answer =
  | { readonly what: 'yes'; readonly choices: readonly boolean[]; readonly typed?: string }
  | { readonly what: 'no' | 'more' };
