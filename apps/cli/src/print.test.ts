import { AppError } from '@porch/wire';
import { Unreachable } from '@porch/client';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { explain } from './verbs/explain.ts';
import { CliError } from './exit-codes.ts';
import { ago, countDown, printTable } from './print.ts';

let printed = '';
beforeEach(() => {
  printed = '';
  vi.spyOn(process.stdout, 'write').mockImplementation((text) => ((printed += String(text)), true));
});
afterEach(() => vi.restoreAllMocks());

it('cuts the last column so that a line has at most a hundred', () => {
  printTable(
    ['A', 'B'],
    [
      ['short', 'x'.repeat(300)],
      ['a longer cell', 'y'],
    ],
  );
  const lines = printed.trimEnd().split('\n');
  expect(lines.map((l) => l.length <= 100)).toEqual([true, true, true]);
  expect(lines[1]).toMatch(/x…$/);
  printTable(['A'], []);
  expect(printed.trimEnd().split('\n')).toHaveLength(3);
});
it('tells times as people say them', () => {
  expect([ago(0, 5_000), ago(0, 120_000), ago(0, 7_200_000), countDown(61_000), countDown(-5)]).toEqual([
    '5 s',
    '2 min',
    '2 h',
    '1:01',
    '0:00',
  ]);
});
it('turns each failure into its exit code', () => {
  const codes = [
    new CliError('x', 5),
    new AppError('NOT_GRANTED'),
    new AppError('SIGN_IN_NEEDED'),
    new AppError('SIGN_IN_FAILED'),
    new Unreachable('gone'),
    new Error('a bug'),
  ].map((e) => explain(e).exitCode);
  expect(codes).toEqual([5, 1, 3, 3, 4, 1]);
  expect(explain(new Unreachable('gone')).message).toContain('cannot be reached');
});
