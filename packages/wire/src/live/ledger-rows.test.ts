import { ledger } from '@porch/words/ledger';
import { allPermissions, appendRow, eventTypes, type SessionEvent, tellToTechnicians, ZERO_HASH } from '@porch/core';
import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { decodeLedgerRow, encodeLedgerRow, readLedgerRow, splitEvent } from './ledger-rows.ts';

const SESSION = '00000000-0000-4000-8000-000000000001';
const fixture = JSON.parse(
  readFileSync(new URL('../../fixtures/events-v1.json', import.meta.url), 'utf8'),
) as SessionEvent[];
const rowOf = (event: SessionEvent) => {
  const { header, body } = splitEvent(event, 1, 7, SESSION);
  return appendRow(ZERO_HASH, 1, header, body, new Uint8Array(16).fill(3));
};

it('reads every event of version 1 as it was shipped', () => {
  const written = eventTypes.filter((type) => type !== 'notUnderstood' && !type.includes('/'));
  expect(new Set(fixture.map((e) => e.type))).toEqual(new Set(written));
  for (const event of fixture)
    expect(readLedgerRow(decodeLedgerRow(encodeLedgerRow(rowOf(event)))).event).toEqual(event);
});

it('keeps everything personal out of the header', () => {
  for (const event of fixture) {
    const header = new TextDecoder().decode(rowOf(event).header);
    expect(header).not.toMatch(/Bettina|Pim Aldersey|barcode|printer|example/);
  }
});

it('reads an erased event, and tells it without its words', () => {
  const erased = fixture.map((event) => ({ ...rowOf(event), salt: undefined, body: undefined }));
  const told = tellToTechnicians(erased.map(readLedgerRow), ledger.en);
  expect(told).toHaveLength(fixture.length);
  for (const { sentence } of told) expect(sentence).not.toMatch(/Bettina|undefined/);
});

it('keeps what a later release wrote, and fields that it added', () => {
  const row = rowOf({ type: 'tryItAsked', by: 'x' });
  const later = (text: string) => ({ ...row, header: new TextEncoder().encode(text) });
  const header = new TextDecoder().decode(row.header);
  const unknown = readLedgerRow(later(header.replace('tryItAsked', 'whiteboard/drawn'))).event;
  expect(unknown).toEqual({ type: 'notUnderstood', by: 'x', what: 'whiteboard/drawn' });
  const more = readLedgerRow(later(header.replace('"by"', '"howOften":3,"by"'))).event;
  expect(more).toEqual({ type: 'tryItAsked', by: 'x', howOften: 3 });
});

it('refuses another version and what is no event', () => {
  const row = rowOf({ type: 'tryItAsked', by: 'x' });
  const withHeader = (change: (text: string) => string) => ({
    ...row,
    header: new TextEncoder().encode(change(new TextDecoder().decode(row.header))),
  });
  expect(() => readLedgerRow(withHeader((t) => t.replace('"v":1', '"v":2')))).toThrow(/another version/);
  for (const change of [() => '{', () => '[]', (t: string) => t.replace('"by"', '"bye"')])
    expect(() => readLedgerRow(withHeader(change))).toThrow(/does not match/);
  expect(() => decodeLedgerRow({ seq: 1, header: '***', bodyHash: 'zz', hash: 'zz' })).toThrow(/does not match/);
  expect(allPermissions).toContain('view-screen');
});
