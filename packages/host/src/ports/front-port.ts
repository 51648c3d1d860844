/** Whether the desktop of this account is the one in front of the computer, where several people are signed in. */
export interface FrontPort {
  readonly isInFront: boolean;
  onChanged(listener: () => void): () => void;
}
