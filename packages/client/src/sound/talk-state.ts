export type Microphone = 'open' | 'muted' | 'none';
export interface TalkState {
  /** Undefined until it was opened. */
  readonly microphone: Microphone | undefined;
  /** Nobody is heard here. */
  readonly isHushed: boolean;
  readonly ownPeak: number;
  readonly others: readonly { readonly seat: number; readonly microphone: Microphone; readonly peak: number }[];
}
