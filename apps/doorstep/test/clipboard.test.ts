import { ledger } from '@porch/words/ledger';
import { ClipRefused, FileTransfers, TechnicianClipboard } from '@porch/client';
import { tellToCustomer, type Permission } from '@porch/core';
import { XConnection } from '@porch/doorstep';
import { askAndAgree, House, PressCounter, setInForce, startWorking, until } from '@porch/testkit';
import { execFileSync, spawn } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/* Both clipboards, with another program's eyes and hands at the customer's side. */
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

const MOST_BYTES = 64 * 1024 * 1024;
const hashOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
const png = (sizeBytes: number) =>
  Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]), randomBytes(sizeBytes - 8)]);

async function working(...permissions: Permission[]) {
  const s = await house.sessionUnderWay();
  const d = await house.withDoorstep(s.link);
  const seen = await startWorking(s.technician, d.person);
  const { display } = d.desktop;
  const copy = async (bytes: Buffer, target = 'UTF8_STRING') => {
    const child = spawn('xclip', ['-selection', 'clipboard', '-t', target, '-i'], {
      env: { ...process.env, DISPLAY: display },
      stdio: ['pipe', 'ignore', 'ignore'],
    });
    child.stdin.end(bytes);
    // It goes on in the background once it owns the clipboard.
    await new Promise((resolve) => child.once('exit', resolve));
  };
  const paste = (target = 'UTF8_STRING'): Buffer =>
    execFileSync('xclip', ['-selection', 'clipboard', '-t', target, '-o'], {
      env: { ...process.env, DISPLAY: display },
      maxBuffer: MOST_BYTES,
    });
  const clipboard = new TechnicianClipboard(s.technician);
  if (permissions.length) await askAndAgree(s.technician, d.person, permissions);
  const moved = () =>
    tellToCustomer(s.customer.entries, ledger.en)
      .map(({ sentence }) => sentence)
      .filter((sentence) => sentence.includes('clipboard (') || sentence.includes('from your clipboard'));
  return { ...s, ...d, ...seen, copy, paste, clipboard, moved };
}
const refusal = (attempt: Promise<unknown>): Promise<string> =>
  attempt.then(
    () => 'done',
    (error: unknown) => (error instanceof ClipRefused ? error.message : String(error)),
  );

describe('what is copied there', () => {
  it('is read from when that is allowed on, in any script and size, and the ledger has its kind and size alone', async () => {
    const w = await working();
    await w.copy(Buffer.from('what was there before'));
    await askAndAgree(w.technician, w.person, ['read-clipboard']);
    const said = 'Grüße, Ærlig €42 привет 日本語 👍\nline two';
    await w.copy(Buffer.from(said));
    const offer = await until('the offer', () => w.clipboard.offer);
    expect(offer.parts).toEqual([{ kind: 'text', sizeBytes: Buffer.byteLength(said) }]);
    expect(Buffer.from(await w.clipboard.read('text')).toString()).toBe(said);
    for (const [kind, target, bytes] of [
      ['text', 'UTF8_STRING', Buffer.from('ferry привет '.repeat(150_000))],
      ['image', 'image/png', png(3_000_000)],
    ] as const) {
      await w.copy(bytes, target);
      await until(`the ${kind}`, () => w.clipboard.offer?.parts.some((part) => part.sizeBytes === bytes.length));
      expect(hashOf(await w.clipboard.read(kind))).toBe(hashOf(bytes));
    }
    await until('three entries', () => w.moved().length === 3);
    expect(w.moved()).toEqual([
      'Pim Aldersey read text from your clipboard (58 B)',
      'Pim Aldersey read text from your clipboard (2.7 MB)',
      'Pim Aldersey read a picture from your clipboard (2.9 MB)',
    ]);
    expect(JSON.stringify(w.technician.entries)).not.toContain('Ærlig');
    // What somebody marked as secret, or what cannot be had, is not even named.
    const before = w.clipboard.offer?.copyId;
    await w.copy(Buffer.from('secret'), 'x-kde-passwordManagerHint');
    await w.copy(Buffer.from('nothing we know'), 'application/x-ferry');
    await w.copy(Buffer.from('known again'));
    await until('what is known', () => w.clipboard.offer?.parts[0]?.sizeBytes === 11);
    expect(w.clipboard.offer?.copyId).not.toBe(before);
    w.clipboard.close();
  });

  it('is nobody’s without leave, nor after it; an offer of before is worth nothing', async () => {
    const w = await working();
    await w.copy(Buffer.from('not for anybody'));
    expect(await refusal(w.clipboard.read('text'))).toBe('something else was copied meanwhile');
    await askAndAgree(w.technician, w.person, ['read-clipboard']);
    await w.copy(Buffer.from('for Pim'));
    const first = await until('the offer', () => w.clipboard.offer);
    await w.copy(Buffer.from('for Pim, too'));
    await until('the next', () => w.clipboard.offer?.copyId !== first.copyId);
    w.clipboard.offer = first;
    expect(await refusal(w.clipboard.read('text'))).toBe('something else was copied meanwhile');
    await w.customer.command({
      type: 'withdrawPermission',
      participantId: w.technician.participantId,
      permission: 'read-clipboard',
      why: 'enough',
    });
    w.clipboard.offer = first;
    const reading = refusal(w.clipboard.read('text'));
    await w.copy(Buffer.from('no longer for Pim'));
    await w.technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'Thank you.' });
    w.clipboard.close();
    expect(await reading).not.toBe('done');
    expect(w.clipboard.offer).toBe(first);
  });

  it('may be of a program that never answers, or gives more than it may: others go on, and so does the next copy', async () => {
    await setInForce(house, 'max-clipboard-mb', '1');
    const w = await working('read-clipboard');
    const x = await XConnection.open(w.desktop.display, () => undefined);
    const [selection, incr, targets, utf8] = await Promise.all(
      ['CLIPBOARD', 'INCR', 'TARGETS', 'UTF8_STRING'].map((name) => x.atom(name)),
    );
    const window = x.client.AllocID();
    x.client.CreateWindow(window, x.root, 0, 0, 1, 1, 0, 0, 0, 0, {});
    let asked = 0;
    let lies = false;
    const endless = (event: { name?: string; wid?: number; [field: string]: unknown }) => {
      if (event.name === 'PropertyNotify' && event['state'] === 1 && lies)
        x.client.ChangeProperty(0, event.wid ?? 0, event['atom'] as number, utf8 ?? 0, 8, Buffer.alloc(100_000, 65));
      if (event.name !== 'SelectionRequest') return;
      asked++;
      if (!lies) return; // Never answered.
      const [requestor, target, property] = [event['requestor'], event['target'], event['property']] as number[];
      const isList = target === targets;
      if (!isList) x.client.ChangeWindowAttributes(requestor ?? 0, { eventMask: 0x400000 });
      const data = Buffer.alloc(4);
      data.writeUInt32LE(isList ? (utf8 ?? 0) : 10);
      x.client.ChangeProperty(0, requestor ?? 0, property ?? 0, isList ? 4 : (incr ?? 0), 32, data);
      const answer = Buffer.alloc(32);
      answer[0] = 31;
      [requestor, selection, target, property].forEach((word, i) => answer.writeUInt32LE(word ?? 0, 8 + 4 * i));
      x.client.SendEvent(requestor ?? 0, 0, 0, answer);
    };
    x.client.on('event', endless);
    x.client.SetSelectionOwner(window, selection ?? 0, 0);
    await until('it to be asked', () => asked === 1);
    await w.copy(Buffer.from('after the silent one'));
    await until('the next copy', () => w.clipboard.offer?.parts[0]?.sizeBytes === 20);
    lies = true;
    x.client.SetSelectionOwner(window, selection ?? 0, 0);
    await until('it to be asked for all of it', () => asked >= 3);
    await w.copy(Buffer.from('after the liar'));
    await until('the next copy', () => w.clipboard.offer?.parts[0]?.sizeBytes === 14);
    expect(Buffer.from(await w.clipboard.read('text')).toString()).toBe('after the liar');
    await w.copy(Buffer.alloc(2_000_000, 66));
    await w.copy(Buffer.from('small'));
    await until('what is small', () => w.clipboard.offer?.parts[0]?.sizeBytes === 5);
    w.clipboard.close();
    x.close();
    await setInForce(house, 'max-clipboard-mb', '64');
  });
});

describe('what the technician puts there', () => {
  it('is pasted there byte for byte, text as any program asks for it, large ones while keys go on', async () => {
    const w = await working('give-clipboard');
    const said = 'sudo cupsenable quayprint ✓ – für Bettina';
    await w.clipboard.put('text', Buffer.from(said));
    for (const target of ['UTF8_STRING', 'text/plain;charset=utf-8', 'STRING'])
      expect(w.paste(target).toString()).toBe(said);
    const picture = png(12_000_000);
    const counter = await PressCounter.at(w.desktop.display);
    await counter.press(w.lease);
    let isPlaced = false;
    const placed = w.clipboard.put('image', picture).then(() => (isPlaced = true));
    await counter.press(w.lease);
    expect(isPlaced, 'a key does not wait for a picture').toBe(false);
    await placed;
    expect(hashOf(w.paste('image/png'))).toBe(hashOf(picture));
    await until('the entries', () => w.moved().length === 2);
    expect(w.moved()[1]).toBe('Pim Aldersey put a picture onto your clipboard (11.4 MB)');
    counter.close();
    w.clipboard.close();
  });

  it('is not put there without leave, not beyond what the desk allows, and stops with it', async () => {
    const w = await working();
    const mine = 'the customer’s own words';
    await w.copy(Buffer.from(mine));
    const early = refusal(w.clipboard.put('text', Buffer.from('early')));
    await askAndAgree(w.technician, w.person, ['give-clipboard']);
    w.clipboard.stop();
    expect(await early).toBe('cancelled by hand');
    const large = refusal(w.clipboard.put('image', png(65 * 1024 * 1024)));
    expect(await large).toBe('it is more than the desk allows');
    const going = refusal(w.clipboard.put('image', png(30_000_000)));
    expect(await refusal(w.clipboard.put('text', Buffer.from('beside it')))).toBe('too many are on their way');
    await w.customer.command({
      type: 'withdrawPermission',
      participantId: w.technician.participantId,
      permission: 'give-clipboard',
      why: 'enough',
    });
    await w.technician.command({ type: 'sendChat', messageId: crypto.randomUUID(), text: 'I stop.' });
    w.clipboard.stop();
    expect(await going).not.toBe('done');
    expect(w.paste().toString()).toBe(mine);
    w.clipboard.close();
  });

  it('may be files: they come as files, by the leave for those, and are pasted as what they are', async () => {
    const w = await working('give-clipboard');
    await askAndAgree(w.technician, w.person, ['give-files']);
    const transfers = new FileTransfers(w.technician);
    const bytes = randomBytes(5_000);
    const offering = transfers.offer(
      {
        name: 'notice to passengers.txt',
        sizeBytes: bytes.length,
        read: (offset, length) => Promise.resolve(bytes.subarray(offset, offset + length)),
      },
      w.technician.state.holderId ?? '',
    );
    await w.person.answer(true, 1_100);
    const fileId = await offering;
    await until('it to arrive', () => w.technician.state.slices.files[fileId]?.stage === 'arrived');
    expect(await refusal(w.clipboard.putFiles([crypto.randomUUID()]))).toBe('not all of the files have arrived');
    await w.clipboard.putFiles([fileId]);
    const downloads = join(w.desktop.home, 'Downloads');
    const [name = ''] = readdirSync(downloads).filter((file) => file.startsWith('notice'));
    const address = pathToFileURL(join(downloads, name)).href;
    expect(w.paste('text/uri-list').toString()).toBe(`${address}\r\n`);
    expect(w.paste('x-special/gnome-copied-files').toString()).toBe(`copy\n${address}`);
    await transfers.close();

    // The other way round they are named, and fetched as files are.
    await askAndAgree(w.technician, w.person, ['read-clipboard']);
    const export_ = join(w.desktop.home, 'export.csv');
    writeFileSync(export_, 'a;b\n');
    await w.copy(Buffer.from(`${pathToFileURL(export_).href}\r\nfile:///no/such/file\r\n`), 'text/uri-list');
    const offer = await until('the names', () => w.clipboard.offer);
    expect(offer).toMatchObject({ parts: [], files: [{ path: export_, name: 'export.csv', sizeBytes: 4 }] });
    w.clipboard.close();
  });
});
