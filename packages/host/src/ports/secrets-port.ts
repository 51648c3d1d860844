/** A field for passwords that has the keyboard. */
export interface PasswordField {
  /** Another field is another one, also when it lies in the same place. */
  readonly id: number;
  /** It is covered in every picture exactly where it lies; otherwise nobody is sure where that is. */
  readonly isCovered: boolean;
}

/** What a computer tells of what nobody else is to see, and what is kept out of pictures because of it. */
export interface SecretsPort {
  /** Whether it tells of fields for passwords just now; programs that say nothing of theirs are never noticed. */
  readonly noticesPasswords: boolean;
  /** Hears which one has the keyboard, once what can be covered is; undefined when none has any longer. */
  onPassword(listener: (field: PasswordField | undefined) => void): () => void;
  /** Notifications that are there, and those that come until the returned function is called, are in no picture as long as they last. */
  keepNotificationsOut(): () => void;
}
