import { expect, it } from 'vitest';
import { isRefusedKind, readFileKinds } from './refused-kinds.ts';

it('reads endings as people type them, and knows them however they are written', () => {
  const kinds = readFileKinds(' .EXE, scr ,, js');
  expect(kinds).toEqual(['exe', 'scr', 'js']);
  for (const name of ['setup.exe', 'Setup.EXE', 'a.pdf.exe', 'x.scr ', 'x.js..'])
    expect(isRefusedKind(name, kinds), name).toBe(true);
  for (const name of ['exe', 'a.json', 'exe.txt', '', 'a.']) expect(isRefusedKind(name, kinds), name).toBe(false);
  expect(() => readFileKinds('exe, a/b')).toThrow('a/b');
});
