import { describe, expect, it } from 'vitest';
import { isConnectionTrouble } from './connection-trouble.ts';

/* What is tried again, and what is a fault of ours: the one is told as 503, the other as 500, and never the other way. */
const failure = (message: string, more: object = {}) => Object.assign(new Error(message), more);

describe('trouble that passes', () => {
  it.each([
    ['PostgreSQL shuts down', failure('terminating connection', { code: '57P01' })],
    ['it crashed', failure('terminating connection', { code: '57P02' })],
    ['it starts', failure('the database system is starting up', { code: '57P03' })],
    ['it has no connection left', failure('sorry, too many clients already', { code: '53300' })],
    ['the connection broke', failure('server closed the connection', { code: '08006' })],
    ['it gave an idle transaction up', failure('idle', { code: '25P03' })],
    ['nobody listens', failure('connect', { code: 'ECONNREFUSED' })],
    ['the line was reset', failure('read', { code: 'ECONNRESET' })],
    ['the pool found none free in time', failure('timeout exceeded when trying to connect')],
    ['a connection was not opened in time', failure('timeout expired')],
    ['a statement was not answered in time', failure('Query read timeout')],
    ['the driver lost its connection', failure('Connection terminated unexpectedly')],
    ['the driver’s own error is inside', failure('QueryFailedError', { driverError: { code: '57P01' } })],
  ])('%s', (_what, error) => {
    expect(isConnectionTrouble(error)).toBe(true);
  });
});

describe('a fault of ours, or a refusal', () => {
  it.each([
    ['a name stands twice', failure('duplicate key value', { code: '23505' })],
    ['there is no such table', failure('relation does not exist', { code: '42P01' })],
    ['a statement was cancelled', failure('canceling statement', { code: '57014' })],
    ['the password is wrong', failure('password authentication failed', { code: '28P01' })],
    ['a bug', new TypeError('x is not a function')],
    ['words that only sound like it', failure('the customer’s connection was terminated by Stop')],
    ['nothing at all', undefined],
    ['no error', 'ECONNREFUSED'],
  ])('%s', (_what, error) => {
    expect(isConnectionTrouble(error)).toBe(false);
  });
});
