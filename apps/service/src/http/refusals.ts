import { api, apiRefusals, type AnyOperation, type ErrorCode } from '@porch/wire';

/** What anything may be refused with, whoever asks. */
export const always: readonly ErrorCode[] = [
  'INVALID_REQUEST',
  'MESSAGE_TOO_LARGE',
  'TOO_MANY_ATTEMPTS',
  'INTERNAL',
  'RECORDS_DOWN',
  'STOPPING',
];
export const ofTechnicians: readonly ErrorCode[] = ['SIGN_IN_NEEDED', 'NOT_YOUR_ROLE'];
const ofOnce: readonly ErrorCode[] = ['ONCE_REUSED', 'ONCE_UNDER_WAY', 'ONCE_UNKNOWN'];

const own = new Map<AnyOperation, readonly ErrorCode[]>(
  Object.entries(api).map(([name, operation]) => [operation, apiRefusals[name as keyof typeof api]]),
);

/** Everything that an operation may be refused with. */
export const refusalsOf = (operation: AnyOperation): readonly ErrorCode[] => [
  ...unsaid(operation),
  ...(own.get(operation) ?? []),
];

const unsaid = ({ who, isOnce, version }: AnyOperation): readonly ErrorCode[] => [
  ...always,
  ...(who === 'technician' ? ofTechnicians : []),
  ...(isOnce ? ofOnce : []),
  ...(version === 'demanded' ? (['CHANGED_MEANWHILE'] as const) : []),
];

export const mayBeRefusedWith = (operation: AnyOperation, code: ErrorCode): boolean =>
  refusalsOf(operation).includes(code);
