/** A mail as it leaves the service. */
export interface OutgoingMail {
  readonly to: string;
  readonly subject: string;
  readonly text: string;
  /** Comes back with delivery reports; without it none are asked for. */
  readonly reportRef?: string;
  readonly calendar?: { readonly method: 'REQUEST' | 'CANCEL'; readonly content: string };
}

/** What became of a message, as those who carried it say. */
export interface DeliveryReport {
  readonly state: 'delivered' | 'failed' | 'delayed';
  readonly why: string;
}

/** What carries messages to customers. Throws `NeverDeliverable` when another try would end the same way. */
export interface MessageGateway {
  readonly hasMail: boolean;
  readonly hasTexts: boolean;
  mail(message: OutgoingMail): Promise<void>;
  text(message: { to: string; text: string; reportRef: string }): Promise<void>;
  close(): void;
}

const MAIL_ADDRESS = /^[^\s@<>",;:]{1,64}@[^\s@<>",;:]{1,120}$/;
export const isMailAddress = (address: string): boolean => MAIL_ADDRESS.test(address);
