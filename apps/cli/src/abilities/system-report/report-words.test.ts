import { differenceInWords, rowsOfPart, signInWords } from '@porch/client';
import { reportPartNames, reportParts, type Difference, type HealthSign, type ReportParts } from '@porch/core';
import { speechOf } from '@porch/words';
import { console as books } from '@porch/words/console';
import { describe, expect, it } from 'vitest';

const NOW_MS = 1_800_000_000_000;
const signs: HealthSign[] = [
  { sign: 'full', at: '/', percent: 96 },
  { sign: 'narrow', at: '/home', percent: 88 },
  { sign: 'read-only', at: '/boot' },
  { sign: 'service-failed', name: 'gate-scanner' },
  { sign: 'little-memory', percent: 95 },
  { sign: 'busy', times: 2.5 },
  { sign: 'no-network' },
  { sign: 'desk-not-reached' },
  { sign: 'wants-restart' },
  { sign: 'no-firewall' },
  { sign: 'battery-worn', percent: 50 },
  { sign: 'battery-low', percent: 9 },
  { sign: 'security-updates', count: 2 },
  { sign: 'changed-besides', count: 30 },
  { sign: 'changed-lately', name: 'quayprint-driver', from: '3.8', to: '4.1', atMs: NOW_MS },
  { sign: 'changed-lately', name: 'quayprint-driver', to: '4.1', atMs: NOW_MS },
  { sign: 'changed-lately', name: 'quayprint-driver', from: '3.8', atMs: NOW_MS },
];
const differences: Difference[] = [
  { what: 'program', change: { name: 'quayprint-driver', from: '3.8', to: '4.1', atMs: NOW_MS } },
  { what: 'system', from: 'Debian 12', to: 'Debian 13' },
  { what: 'kernel', from: '6.1', to: '6.12' },
  { what: 'processor', from: 'one', to: 'another' },
  { what: 'gateway', from: '192.0.2.1', to: '192.0.2.2' },
  { what: 'firewall', from: 'on', to: 'off' },
  { what: 'encryption', from: 'unknown', to: 'on' },
  { what: 'memory', fromBytes: 8e9, toBytes: 4e9 },
  { what: 'room', at: '/', fromBytes: 8e9, toBytes: 1e9 },
  { what: 'volume-came', at: '/media' },
  { what: 'volume-went', at: '/media' },
  { what: 'service-failed', name: 'cups' },
  { what: 'service-mended', name: 'cups' },
  { what: 'displays', from: 1, to: 2 },
];
const parts: ReportParts = {
  system: {
    ...{ name: 'Debian', kernel: '6.1', architecture: 'x64', computer: 'tern-quay-04', startedAtMs: NOW_MS },
    ...{ installedAtMs: NOW_MS, timeZone: 'Europe/Oslo', language: 'nb', wantsRestart: true },
  },
  hardware: { maker: 'Quay', model: 'One', processor: 'P', cores: 2 },
  memory: { totalBytes: 8e9, availableBytes: 1e9, swapTotalBytes: 0, swapFreeBytes: 0, loadPerCore: 0.5 },
  storage: { volumes: [{ at: '/', kind: 'ext4', totalBytes: 8e9, freeBytes: 1e9, isReadOnly: true }] },
  network: { interfaces: [{ name: 'eth0', isUp: false, addresses: [] }], nameServers: [], desk: { isReached: false } },
  display: { server: 'X11', displays: [{ name: 'one', width: 1, height: 1 }] },
  sound: { isServed: false, cards: [] },
  battery: { isThere: true, percent: 50, isCharging: true, healthPercent: 80 },
  services: { running: 3, failed: ['cups'] },
  processes: { count: 3, top: [{ name: 'p', cpuPercent: 12, memoryBytes: 1e6 }] },
  security: { firewall: 'unknown', encryption: 'on', automaticUpdates: 'off', signedIn: 1 },
  programs: { count: 3, updatedAtMs: NOW_MS, changes: [{ name: 'quayprint-driver', to: '4.1', atMs: NOW_MS }] },
  updates: { pending: 3, security: 1 },
};

describe.each(['en', 'no', 'de'] as const)('a system report in the words of %s', (language) => {
  const { systemReport: words } = books[language];
  const speech = speechOf(language, 'UTC');

  it('says every sign and every difference as a sentence of its own, with nothing left open', () => {
    const said = [
      ...signs.map((sign) => signInWords(sign, words, speech)),
      ...differences.map((one) => differenceInWords(one, words, speech)),
    ];
    for (const sentence of said) expect(sentence).not.toMatch(/undefined|NaN|\{|\}|\[object/);
    // What is a difference of programs is said as the sign of it is.
    expect(new Set(said).size).toBe(said.length - 1);
  });

  it('has lines for every part, whatever is in it', () => {
    for (const name of reportPartNames) {
      expect(reportParts[name].safeParse(parts[name]).success, name).toBe(true);
      const rows = rowsOfPart(name, parts, words, speech);
      expect(rows.length, name).toBeGreaterThan(0);
      for (const row of rows) expect(row.join(' ')).not.toMatch(/undefined|NaN|\{|\}|\[object/);
      expect(rowsOfPart(name, {}, words, speech)).toEqual([]);
    }
  });
});
