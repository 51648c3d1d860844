import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cellOf, chooseRows, programColumns } from './choose.ts';
import { isNamedIn, programListNames, programLists, type ProgramRow } from './lists.ts';

const process = fc.record({
  id: fc.uuid(),
  name: fc.constantFrom('quayprint', 'gate-scanner', 'Gate Board', 'sleep', '—'),
  pid: fc.integer({ min: 1, max: 40 }),
  cpuPercent: fc.integer({ min: 0, max: 5 }),
  memoryBytes: fc.integer({ min: 0, max: 3 }),
  whose: fc.constantFrom('person', 'others', 'computer'),
  state: fc.constantFrom('working', 'waiting', 'stuck', 'stopped', 'ended'),
  startedAtMs: fc.integer({ min: 0, max: 9 }),
  startedAs: fc.string({ maxLength: 10 }),
}) as fc.Arbitrary<ProgramRow<'processes'>>;

describe('rows of a list', () => {
  it('stand in one order that nothing but the rows decides, with all of those and only those in which every word is', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(process, { selector: ({ id }) => id, maxLength: 30 }),
        fc.constantFrom(...programColumns.processes),
        fc.boolean(),
        fc.constantFrom('', 'gate', 'GATE s', 'print 1', 'nothing-like-it'),
        (rows, by, isDown, words) => {
          const chosen = chooseRows(rows, words, { by, isDown });
          expect(chooseRows(rows.toReversed(), words, { by, isDown })).toEqual(chosen);
          const has = (row: ProgramRow<'processes'>) =>
            words
              .toLowerCase()
              .split(' ')
              .every((word) =>
                Object.entries(row).some(([key, v]) => key !== 'id' && String(v).toLowerCase().includes(word)),
              );
          expect(chosen.map(({ id }) => id).sort()).toEqual(
            rows
              .filter(has)
              .map(({ id }) => id)
              .sort(),
          );
          const numbers = chosen.map((row) => cellOf(row, by)).filter((cell) => typeof cell === 'number');
          const ordered = numbers.toSorted((a, b) => (isDown ? b - a : a - b));
          expect(numbers).toEqual(ordered);
        },
      ),
      runs(),
    );
  });

  it('have trouble first by their state, and those without a value last either way', () => {
    const job = (name: string, nextAtMs?: number): ProgramRow<'jobs'> => ({
      ...{ id: name, name, when: '', whose: 'computer', runs: '' },
      ...(nextAtMs === undefined ? {} : { nextAtMs }),
    });
    const names = (isDown: boolean) =>
      chooseRows([job('never'), job('late', 9), job('soon', 1)], '', { by: 'nextAtMs', isDown }).map(
        ({ name }) => name,
      );
    expect(names(false)).toEqual(['soon', 'late', 'never']);
    expect(names(true)).toEqual(['late', 'soon', 'never']);
    const service = (name: string, state: ProgramRow<'services'>['state']): ProgramRow<'services'> => ({
      ...{ id: name, name, about: '', state, begins: 'unknown', whose: 'computer' },
    });
    const services = [service('a', 'stopped'), service('b', 'running'), service('c', 'failed')];
    expect(chooseRows(services, '', { by: 'state', isDown: false }).map(({ name }) => name)).toEqual(['c', 'b', 'a']);
  });

  it('have columns that are theirs, and every column of theirs that is read', () => {
    for (const list of programListNames)
      for (const column of programColumns[list]) expect(Object.keys(programLists[list].shape)).toContain(column);
  });
});

it.each([
  ['gate-*', 'gate-scanner', true],
  ['gate-*', 'the-gate-scanner', false],
  ['*scanner', 'gate-scanner.service', true],
  ['gate.service', 'Gate', true],
  ['g*-*r', 'gate-scanner', true],
  ['ga*te*er', 'gater', false],
  ['a*a', 'a', false],
  ['*', 'whatever', true],
  ['gate', 'gates', false],
])('a desk that never touches %s means %s: %s', (pattern, name, isMeant) => {
  expect(isNamedIn(['other', pattern], name)).toBe(isMeant);
});
