import { expect, it } from 'vitest';
import { aptArguments, otherwiseChanged, wereHere } from './packages-back.ts';

const DRIVER = { id: 'quayprint-driver:all', from: '4.1', to: '3.8' };
const log = `2026-11-16 09:12:00 install quayprint-driver:all <none> 3.8
2026-11-16 09:12:00 status installed quayprint-driver:all 3.8
2026-11-30 09:12:00 upgrade quayprint-driver:all 3.8 4.1
2026-11-30 09:12:00 status half-configured quayprint-driver:all 9.9`;

it('takes a package back only to what the package log says that it was', () => {
  expect(wereHere(log, [DRIVER])).toBe(true);
  expect(wereHere(log, [{ id: 'quayprint-driver:all', from: '4.1' }]), 'it came').toBe(true);
  expect(wereHere(log, [{ ...DRIVER, to: '9.9' }]), 'a state is no change').toBe(false);
  expect(wereHere(log, [DRIVER, { id: 'sudo:amd64', from: '2', to: '1' }])).toBe(false);
  const older = log.split('\n').slice(2).join('\n');
  expect(wereHere(older, [DRIVER]), 'the log begins with the change').toBe(true);
  expect(wereHere(older, [{ id: 'quayprint-driver:all', from: '4.1' }]), 'it was there before').toBe(false);
});

it('says everything to apt in one go, and notices what apt would do besides', () => {
  const gone = { id: 'libtide:i386', from: '1' };
  expect(aptArguments([DRIVER, gone]).slice(-3)).toEqual(['--', 'quayprint-driver=3.8', 'libtide:i386-']);
  const inst = 'Inst quayprint-driver [4.1] (3.8 localhost [all])\nConf quayprint-driver (3.8 localhost [all])\n';
  expect(otherwiseChanged(inst, [DRIVER])).toEqual([]);
  expect(otherwiseChanged(`${inst}Remv quayprint-tray [1.2]\n`, [DRIVER])).toEqual(['quayprint-tray']);
  expect(otherwiseChanged(`${inst}Inst libberth1 (2.0 localhost [amd64])\n`, [DRIVER])).toEqual(['libberth1']);
  expect(otherwiseChanged(inst.replace('(3.8', '(3.9'), [DRIVER]), 'another version').toEqual(['quayprint-driver']);
  expect(otherwiseChanged('Remv libtide:i386 [1]\n', [gone])).toEqual([]);
  expect(otherwiseChanged('Remv quayprint-driver [4.1]\n', [DRIVER])).toEqual(['quayprint-driver']);
});
