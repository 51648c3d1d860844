import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { PassThrough } from 'node:stream';
import { describe, expect, it } from 'vitest';
import { hearLines, MAX_LINE_CHARACTERS } from '../json-lines.ts';
import { sayLine, ToPart } from './lines.ts';

const runId = '00000000-0000-4000-8000-000000000001';
const settled = () => new Promise((resolve) => setImmediate(resolve));
function hearing() {
  const from = new PassThrough();
  const heard: ToPart[] = [];
  const ends: boolean[] = [];
  hearLines(
    from,
    ToPart,
    (line) => heard.push(line),
    (isBroken) => ends.push(isBroken),
  );
  return { from, heard, ends };
}

describe('lines between Doorstep and the part that holds rights', () => {
  it('come whole however they are cut, in their order', async () => {
    const values = fc.dictionary(fc.string(), fc.string({ unit: 'grapheme' }));
    await fc.assert(
      fc.asyncProperty(fc.array(values, { maxLength: 5 }), fc.array(fc.nat()), async (all, cuts) => {
        const lines = all.map((one, i): ToPart => ({ do: 'run', runId, text: `${i}`, values: one }));
        const out = new PassThrough();
        for (const line of lines) sayLine(out, line);
        const bytes = (out.read() as Buffer | null) ?? Buffer.alloc(0);
        const { from, heard, ends } = hearing();
        const places = [0, ...cuts.map((cut) => cut % (bytes.length + 1)).sort((a, b) => a - b), bytes.length];
        places.slice(1).forEach((place, i) => from.write(bytes.subarray(places[i], place)));
        from.end();
        await settled();
        await settled();
        expect(heard).toEqual(lines);
        expect(ends).toEqual([false]);
      }),
      runs(),
    );
  });

  it('end with what is none: other words, bytes, a line without end', async () => {
    for (const wrong of [
      '{}\n',
      'ready\n',
      '{"do":"read","path":"/etc/shadow"}\n',
      'x'.repeat(MAX_LINE_CHARACTERS + 1),
    ]) {
      const { from, heard, ends } = hearing();
      from.write(wrong);
      from.write('{"do":"here"}\n');
      await settled();
      expect([heard, ends], wrong.slice(0, 40)).toEqual([[], [true]]);
    }
  });
});
