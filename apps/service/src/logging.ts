import { AppError } from '@porch/wire';
import type { FastifyServerOptions } from 'fastify';

/*
 * What may be logged is a list, and nothing else is: names, addresses and words of people reach a log through fields that
 * nobody thought of, and through errors of libraries that repeat what they were given.
 */
const mayBeLogged = new Set([
  'err',
  'what',
  'code',
  'reqId',
  'method',
  'route',
  'status',
  'sessionId',
  'parcel',
  'kind',
  'attempts',
  'waitMs',
  'bytes',
  'tooLarge',
  'count',
  'ms',
  'is',
  'setting',
]);
/** Errors of the language whose words are about code. Those of a parser or a driver repeat what they could not read. */
const plainErrors = new Set(['TypeError', 'RangeError', 'ReferenceError', 'AssertionError', 'TimeoutError']);

/** An error as it may be logged: what kind it is, its code, where it came from, and its words only when they are ours. */
export interface LoggedError {
  readonly [field: string]: unknown;
  readonly type: string;
  readonly message: string;
  readonly stack: string;
}

export function loggedError(error: unknown): LoggedError {
  if (!(error instanceof Error)) return { type: typeof error, message: '', stack: '' };
  const { code } = error as { code?: unknown };
  const driverCode = (error as { driverError?: { code?: unknown } }).driverError?.code;
  const isOurs = error instanceof AppError || plainErrors.has(error.name);
  const frames = (error.stack ?? '').split('\n').filter((line) => /^\s+at /.test(line));
  return {
    type: error.name,
    message: isOurs ? error.message : '',
    ...(typeof code === 'string' ? { code } : {}),
    ...(typeof driverCode === 'string' ? { driverCode } : {}),
    stack: frames.slice(0, 12).join('\n'),
    ...(error.cause === undefined ? {} : { cause: loggedError(error.cause) }),
  };
}

export function loggerOptions(level: string): NonNullable<FastifyServerOptions['logger']> {
  return {
    level,
    serializers: { err: loggedError, req: () => ({}), res: () => ({}) },
    formatters: {
      log: (fields) =>
        Object.fromEntries(
          Object.entries(fields).filter(([name, value]) => mayBeLogged.has(name) && value !== undefined),
        ),
    },
  };
}
