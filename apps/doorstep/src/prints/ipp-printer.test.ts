import type { PrintedDocument } from '@porch/host';
import { createHash } from 'node:crypto';
import { request } from 'node:http';
import fc from 'fast-check';
import { afterEach, describe, expect, it } from 'vitest';
import {
  bool,
  collection,
  CutShort,
  decodeIpp,
  encodeIpp,
  groupTags,
  integer,
  keyword,
  nameOf,
  type Attribute,
} from './ipp.ts';
import { IppPrinter, type IppPrinterOptions } from './ipp-printer.ts';
import { queueNameOf, titleOf } from './linux-prints.ts';
import { messageHead, operations } from './printer-attributes.ts';
import { RequestReading } from './request-reading.ts';
import { accountAtTheOtherEnd } from './who-connects.ts';

const PDF = Buffer.from('%PDF-1.7\nBoarding pass PF-2231');
const runs = Number(process.env.PORCH_TEST_LONG ?? 0) ? 5_000 : 200;
const message = (code: number, more: readonly Attribute[] = []) =>
  encodeIpp({ code, requestId: 7, groups: [{ tag: groupTags.operation, attributes: [...messageHead, ...more] }] });

describe('the wire form of IPP', () => {
  it('says in bytes what RFC 8010 prints as an example', () => {
    // Appendix A.1, as far as this printer's questions go: the version, Print-Job, request 1, and the first attribute.
    const head = encodeIpp({ version: 0x0101, code: 2, requestId: 1, groups: [{ tag: 1, attributes: messageHead }] });
    expect(head.subarray(0, 9).toString('hex')).toBe('010100020000000101');
    expect(head.subarray(9, 12).toString('hex')).toBe('470012');
    expect(head.subarray(12, 30).toString()).toBe('attributes-charset');
    expect([head.subarray(30, 37).toString(), head.at(-1)]).toEqual(['\0\u0005utf-8', 3]);
  });

  it('reads what it wrote, whatever stands in it, and knows where the document begins', () => {
    const word = fc.string({ minLength: 1, maxLength: 40 });
    const attribute = fc.oneof(
      fc.tuple(word, fc.array(word, { minLength: 1, maxLength: 4 })).map(([name, all]) => keyword(name, ...all)),
      fc.tuple(word, fc.integer({ min: -(2 ** 31), max: 2 ** 31 - 1 })).map(([name, one]) => integer(name, one)),
      fc.tuple(word, fc.boolean()).map(([name, one]) => bool(name, one)),
    );
    fc.assert(
      fc.property(fc.uniqueArray(attribute, { selector: ({ name }) => name, maxLength: 8 }), (attributes) => {
        const bytes = encodeIpp({ code: 2, requestId: 9, groups: [{ tag: 1, attributes }] });
        const read = decodeIpp(Buffer.concat([bytes, PDF]));
        expect([read.requestId, read.endsAt]).toEqual([9, bytes.length]);
        for (const { name, values } of attributes) expect(read.groups[0]?.values.get(name)).toEqual(values);
      }),
      { numRuns: runs, seed: 17 },
    );
  });

  it('says that more has to come of whatever is cut short, and never runs on for what is no message', () => {
    const whole = message(2, [nameOf('job-name', 'x'), collection('media-col', { members: [integer('a', 1)] })]);
    for (let length = 0; length < whole.length; length++)
      expect(() => decodeIpp(whole.subarray(0, length)), `${length} bytes`).toThrow(CutShort);
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), (noise) => {
        try {
          decodeIpp(Buffer.from(noise));
        } catch (error) {
          expect(error).toBeInstanceOf(Error);
        }
      }),
      { numRuns: runs, seed: 18 },
    );
  });

  it('is gathered in whatever pieces it comes', () => {
    const body = Buffer.concat([message(operations.printJob), PDF]);
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 60 }), { maxLength: 20 }), (cuts) => {
        const reading = new RequestReading(PDF.length, () => 'take');
        let at = 0;
        for (const cut of [...cuts, body.length]) reading.add(body.subarray(at, (at += cut)));
        expect(reading.whole()).toMatchObject({ document: PDF, isTooLarge: false });
      }),
      { numRuns: runs, seed: 19 },
    );
    expect(() => new RequestReading(1, () => 'take').add(Buffer.alloc(70_000, 0x41))).toThrow();
  });
});

describe('a printer on loopback', () => {
  let printer: IppPrinter | undefined;
  afterEach(() => printer?.close());
  const taken: PrintedDocument[] = [];
  const refused: string[] = [];
  async function open(more: Partial<IppPrinterOptions> = {}) {
    [taken.length, refused.length] = [0, 0];
    printer = await IppPrinter.open({
      ...{ title: 'Pim Aldersey (support session)', path: '/secret', uuid: 'u', nowMs: () => 0 },
      ...{ mayConnect: () => true, isTheirs: (user: string) => user === 'bettina', room: () => undefined },
      take: (document) => taken.push(document) > 0,
      refused: (why) => refused.push(why),
      warn: () => undefined,
      ...more,
    });
    return new URL(printer.uri.replace('ipp:', 'http:'));
  }
  const post = (url: URL, body: Buffer, path = url.pathname) =>
    new Promise<{ http: number; code: number | undefined; state: unknown; number: unknown }>((resolve, reject) => {
      const asking = request({ host: url.hostname, port: url.port, path, method: 'POST' }, (response) => {
        const parts: Buffer[] = [];
        response.on('data', (part: Buffer) => parts.push(part));
        response.on('end', () => {
          const http = response.statusCode ?? 0;
          const read = http === 200 ? decodeIpp(Buffer.concat(parts)) : undefined;
          const job = read?.groups.find(({ tag }) => tag === groupTags.job)?.values;
          resolve({ http, code: read?.code, state: job?.get('job-state')?.[0], number: job?.get('job-id')?.[0] });
        });
      });
      asking.once('error', reject).end(body);
    });
  const by = (user: string) => [nameOf('requesting-user-name', user), nameOf('job-name', 'Boarding pass')];
  const [COMPLETED, ABORTED] = [9, 8];

  it('hands on what its person prints, byte by byte, in one request or in two', async () => {
    const url = await open();
    const one = await post(url, Buffer.concat([message(operations.printJob, by('bettina')), PDF]));
    expect([one.code, one.state]).toEqual([0, COMPLETED]);
    const made = await post(url, message(operations.createJob, by('bettina')));
    const about = [integer('job-id', Number(made.number)), nameOf('requesting-user-name', 'bettina')];
    const sent = await post(url, Buffer.concat([message(operations.sendDocument, about), PDF]));
    expect(sent.state).toBe(COMPLETED);
    expect((await post(url, message(operations.getJobAttributes, about))).state).toBe(COMPLETED);
    const sha256 = createHash('sha256').update(PDF).digest('hex');
    expect(taken).toMatchObject([{ title: 'Boarding pass', bytes: PDF, sha256 }, { title: 'Boarding pass' }]);
    expect((await post(url, Buffer.concat([message(operations.sendDocument, about), PDF]))).state).toBe(COMPLETED);
    expect(taken, 'a job has one document').toHaveLength(2);
  });

  it('ends what it does not take as aborted, so that no print system tries it for ever', async () => {
    const url = await open();
    const other = await post(url, Buffer.concat([message(operations.printJob, by('samir')), PDF]));
    expect([other.code, other.state, refused]).toEqual([0, ABORTED, ['somebody-else']]);
    const noPdf = await post(
      url,
      Buffer.concat([message(operations.printJob, by('bettina')), Buffer.from('\x1b]0;hi')]),
    );
    expect([noPdf.state, refused.at(-1)]).toEqual([ABORTED, 'no-pdf']);
    const large = Buffer.alloc(64 * 1024 * 1024 + 1, PDF);
    const tooLarge = await post(url, Buffer.concat([message(operations.printJob, by('bettina')), large]));
    expect([tooLarge.state, refused.at(-1), taken]).toEqual([ABORTED, 'too-large', []]);
  });

  it('lets a print system wait while it rests, and takes nothing once it is over', async () => {
    let room: ReturnType<IppPrinterOptions['room']> = 'later';
    const url = await open({ room: () => room });
    const body = Buffer.concat([message(operations.printJob, by('bettina')), PDF]);
    const BUSY = 0x0507;
    expect((await post(url, body)).code).toBe(BUSY);
    room = 'never';
    expect((await post(url, body)).state).toBe(ABORTED);
    expect([taken, refused]).toEqual([[], []]);
  });

  it('says nothing to who does not know its address, or is nobody of this desktop, and outlives nonsense', async () => {
    const url = await open();
    expect((await post(url, message(operations.getPrinterAttributes), '/')).http).toBe(404);
    expect((await post(url, Buffer.from('GET me'))).http).toBe(400);
    expect((await post(url, Buffer.alloc(200_000, 0x41))).http).toBe(400);
    expect((await post(url, message(0x3fff))).code).toBe(0x0501);
    expect((await post(url, message(operations.getPrinterAttributes))).code).toBe(0);
    await printer?.close();
    const closed = await open({ mayConnect: () => false });
    await expect(post(closed, message(operations.getPrinterAttributes))).rejects.toThrow();
  });

  it('knows whose program is at the other end', async () => {
    let account: number | undefined;
    const url = await open({ mayConnect: (socket) => ((account = accountAtTheOtherEnd(socket)), true) });
    await post(url, message(operations.getPrinterAttributes));
    expect(account).toBe(process.getuid?.());
    expect(accountAtTheOtherEnd({ localPort: 1, remotePort: 1 })).toBeUndefined();
  });
});

it('is called what a print system takes, whoever it is for, and tells titles without anything that moves a cursor', () => {
  expect(queueNameOf('Odalys Brandt (support session)')).toBe('Odalys_Brandt_support_session');
  expect(queueNameOf('Ørjan Łuć (supportøkt)')).toBe('Orjan_Luc_supportokt');
  expect([queueNameOf('日本'), queueNameOf('a'.repeat(500)).length]).toEqual(['printer', 60]);
  expect(titleOf('Pass\x1b]0;x\x07\n‮gnp.\u2028 ')).toBe('Pass ]0;x gnp.');
  expect([...titleOf('🛳'.repeat(500))]).toHaveLength(60);
});
