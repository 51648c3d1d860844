import {
  AppError,
  ClientMessage,
  errorWords,
  isLaterClientMessage,
  MAX_TEXT_BYTES,
  OtherHello,
  PROTOCOL_VERSION,
  RefusableMessage,
} from '@porch/wire';
import { hasNul } from '../../http/no-nul.ts';

/** What came as text. */
export type Parsed =
  | { readonly isRefused: false; readonly message: ClientMessage }
  /** A message that a later release may know: it is passed over. */
  | 'later'
  /** It says which command it is, but is none: its sender hears so, and does not send it again. */
  | { readonly isRefused: true; readonly id: string; readonly why: string };

/** Throws MESSAGE_TOO_LARGE, MESSAGE_INVALID, and PROTOCOL_VERSION for a hello of another age. */
export function parseText(data: Buffer): Parsed {
  if (data.byteLength > MAX_TEXT_BYTES) throw new AppError('MESSAGE_TOO_LARGE');
  let value: unknown;
  try {
    value = JSON.parse(data.toString('utf8'));
  } catch (cause) {
    throw new AppError('MESSAGE_INVALID', {}, { cause });
  }
  const message = ClientMessage.safeParse(value);
  if (message.success && !hasNul(value)) return { isRefused: false, message: message.data };
  // A program of another age says its hello in another shape; it hears why it is not let in.
  const hello = OtherHello.safeParse(value);
  if (hello.success && hello.data.version !== PROTOCOL_VERSION) throw new AppError('PROTOCOL_VERSION');
  const named = RefusableMessage.safeParse(value);
  if (!named.success && isLaterClientMessage(value)) return 'later';
  if (!named.success) throw new AppError('MESSAGE_INVALID', {}, { cause: message.error });
  return { isRefused: true, id: named.data.id, why: errorWords.MESSAGE_INVALID };
}
