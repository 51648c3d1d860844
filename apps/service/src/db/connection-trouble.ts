/** Codes of PostgreSQL, by class: 08 connection, 57P the server stops or starts, 53 it is short of something, 25P03 it gave us up. */
const troubleCodes = /^(08|57P0|53[0-9]{3}|25P03)/;
const networkCodes = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'ENETUNREACH', 'EHOSTUNREACH']);
/** What the driver and its pool say, in words alone. */
const troubleWords =
  /Connection terminated|timeout expired|timeout exceeded when trying to connect|Query read timeout|not currently accepting connections|Client has encountered a connection error|not queryable|Connection is not established|Driver not Connected/;

/** Whether the records could not be reached, or answered too late: worth another try. All else is a bug or a refusal. */
export function isConnectionTrouble(error: unknown): boolean {
  if (typeof error !== 'object' || error === null) return false;
  const { code, driverError, message } = error as {
    code?: unknown;
    driverError?: { code?: unknown };
    message?: unknown;
  };
  const codes = [code, driverError?.code].filter((c) => typeof c === 'string');
  return (
    codes.some((c) => troubleCodes.test(c) || networkCodes.has(c)) ||
    (typeof message === 'string' && troubleWords.test(message))
  );
}
