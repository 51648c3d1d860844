/** What the operator can do something about; the message says what. */
export class AdminError extends Error {
  override readonly name = 'AdminError';
}
